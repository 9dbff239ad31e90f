"""Hostile clients of the stand-in: they flood it, hold connections, send what has no end; nobody else may notice.

As a program, ``python -m tools.attack.clients ADDRESS NAME``, it is the attacker.
"""

from __future__ import annotations

import json
import random
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager

from kivant.board.protocol.record import AxisSpan, Span, pack
from kivant.board.protocol.syntax import block
from kivant.board.standin.server import BoardServer
from tools.attack.outcome import Outcome

ANSWER_S = 0.02
_MB = 1_000_000


def floods() -> dict[str, bytes]:
    """Return what is sent again and again, by what is hostile about it."""
    spans = block(pack([Span(1, (AxisSpan(1 << 31),) * 64)] * 64))
    return {
        "quotes": b'""' * (_MB // 2) + b"\n",
        "an open string": b'"' + b"x" * _MB,
        "questions": b"POS?\n" * 50_000,
        "unknown commands": b"NO\n" * 100_000,
        "semicolons": b";" * _MB + b"\n",
        "commas": b"A " + b"," * _MB + b"\n",
        "waits": b"*WAI;POS?\n" * 50_000,
        "ends to wait for": b"*OPC?\n" * 50_000,
        "false blocks": b"A " + b"#1" * (_MB // 2) + b"\n",
        "small blocks": b"A " + b"#11a" * (_MB // 4) + b"\n",
        "commands in a block": b"A #9999999999" + b"OUTP OFF\n" * 100_000,
        "long answers": b"LINE:CAT?;" * 60 + b"\n",
        "many spans": (b"MOT:APP? " + spans + b";:ABOR\n") * 3,
        "digits": b"SYST:WATC " + b"9" * _MB + b"\n",
    }


def flood(address: str, name: str) -> None:
    """Send a flood for ever, on ever new connections."""
    data, (host, port) = floods()[name], address.split(":")
    while True:
        try:
            with socket.create_connection((host, int(port)), timeout=0.5) as connection:
                while True:
                    connection.sendall(data)
        except OSError:
            continue


class Polite:
    """A client that asks one short question after another."""

    def __init__(self, address: str) -> None:
        host, port = address.split(":")
        self._socket = socket.create_connection((host, int(port)), timeout=10)
        self._socket.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
        self._file = self._socket.makefile("rwb")

    def ask(self, text: str) -> str:
        """Return the answer to a question."""
        self._file.write(text.encode() + b"\n")
        self._file.flush()
        return self._file.readline().decode().strip()

    def close(self) -> None:
        """Close the connection."""
        self._file.close()
        self._socket.close()


@contextmanager
def _board() -> Iterator[str]:
    """Run the stand-in in a process of its own; its address."""
    with subprocess.Popen(
        [sys.executable, "-m", "kivant", "board", "--json"], stdout=subprocess.PIPE, text=True
    ) as board:
        assert board.stdout is not None
        try:
            yield str(json.loads(board.stdout.readline())["address"])
        finally:
            board.terminate()


@contextmanager
def _polite(address: str) -> Iterator[Polite]:
    client = Polite(address)
    try:
        yield client
    finally:
        client.close()


def attack(_chance: random.Random, scale: float) -> Outcome:
    """Flood the board in each way, and time what somebody else hears meanwhile."""
    outcome, worst_s, worst, longest_s = Outcome(), 0.0, "", 0.0
    for name in floods():
        with _board() as address, _polite(address) as client:
            client.ask("AXIS:COUN 64;:OUTP ON;*TST?")
            hostile = subprocess.Popen([sys.executable, "-m", "tools.attack.clients", address, name])
            begun, waits, right = time.monotonic(), [], True
            while time.monotonic() - begun < max(6 * scale, 1.5):
                asked = time.monotonic()
                right &= client.ask("*TST?") == "0"
                waits.append(time.monotonic() - asked)
                time.sleep(0.003)
            hostile.kill()
            hostile.wait()
            # A computer may keep all of its processes from running for a moment: one answer in a hundred may be late.
            late, longest_s = sorted(waits)[int(len(waits) * 0.99)], max(longest_s, *waits)
            if late > worst_s:
                worst_s, worst = late, name
            outcome.check(right and late <= ANSWER_S, f"{name}: an answer after {late * 1e3:.0f} ms")
    outcome.worst = f"{worst_s * 1e3:.1f} ms ({worst}); the longest of all {longest_s * 1e3:.0f} ms"
    return outcome


def crowd(_chance: random.Random, scale: float) -> Outcome:
    """Hold all connections open in silence: a stop must still get through."""
    outcome = Outcome()
    with BoardServer() as server:
        host, port = server.address.split(":")
        held = [socket.create_connection((host, int(port))) for _ in range(100)]
        for _ in range(max(round(100 * scale), 3)):
            with _polite(server.address) as client:
                outcome.check(client.ask("ABORt;*TST?") == "0", "shut out by idle connections")
            held.append(socket.create_connection((host, int(port))))
        for connection in held:
            connection.close()
    return outcome


if __name__ == "__main__":
    flood(*sys.argv[1:3])
