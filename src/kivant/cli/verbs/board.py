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

_SWITCH_S = 0.001
"""Python's threads take turns so often, that one connection with much to do keeps no other one waiting."""


def run(options: argparse.Namespace) -> int:
    """Serve the stand-in until interrupted; raises `BoardError` if the port cannot be opened."""
    try:
        server = BoardServer(options.port)
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
