"""``kivant board``: the stand-in board, for other programs."""

from __future__ import annotations

import argparse
import json
import sys
import threading

from kivant.board.standin.server import LOOPBACK, BoardServer
from kivant.board.transport import BoardError
from kivant.cli.interrupt import on_interrupt
from kivant.cli.say import say
from kivant.core.errors import Fault
from kivant.core.travel.mechanics import Pointer
from kivant.files.mechanics_file import load_mechanics

_SWITCH_S = 0.001
"""Python's threads take turns so often, that one connection with much to do keeps no other one waiting."""


def run(options: argparse.Namespace) -> int:
    """Serve the stand-in until interrupted.

    Raises
    ------
    KivantError
        If the port cannot be opened, or the mechanics cannot be read.
    """
    mechanics = load_mechanics(options.mechanics) if options.mechanics else {}
    pointers = {name: Pointer(own, seed) for seed, (name, own) in enumerate(mechanics.items())}
    try:
        server = BoardServer(options.port, pointers=pointers)
    except OSError as error:
        reason = error.strerror or str(error)
        fault = Fault(f"{LOOPBACK}:{options.port}", f"The port cannot be opened: {reason}.", "Choose another --port.")
        raise BoardError(fault) from error
    sys.setswitchinterval(_SWITCH_S)
    ended = threading.Event()
    with on_interrupt(lambda: ended.set()), server:
        print(json.dumps({"address": server.address}) if options.json else server.address, flush=True)
        if not options.json:
            say("stand-in board; press Ctrl+C to stop it")
        ended.wait()
    return 0
