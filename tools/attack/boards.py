"""Hostile boards: whatever one answers, and however slowly, a run ends, and says what is not known."""

from __future__ import annotations

import contextlib
import random
import re
import socket
import threading
import time
from unittest import mock

from kivant.app.document.examples import FEEDER_CAROUSEL, load_example
from kivant.app.running.source import PlanSource
from kivant.app.running.streamer import Streamer
from kivant.board.standin.clock import SteadyClock
from kivant.board.standin.device import Session, StandIn
from kivant.board.standin.dialogue import is_ready, take, work
from kivant.core.plan import plan
from tools.attack.outcome import Outcome

_ANSWERS = (
    b"MOVE,1,1,500,0\n", b"\xff\xfe\n", b"\n", b"x" * 70_000, b"9" * 400 + b"\n", b"MOVE," + b"9" * 400 + b"\n",
    b"nan,inf\n", b"-200,\"\x1b[2J\x07odd\"\n", b"1", b"", b"STOP,,,,\n",
)  # fmt: skip
_MOST_S = 25.0
_TIMES = {"kivant.board.protocol.link._ANSWER_S": 0.5, "kivant.board.transport.tcp.ANSWER_S": 0.3}


def _spoilt(answer: bytes, chance: random.Random) -> bytes:
    """Return what is said instead of a good answer."""
    match chance.randrange(6):
        case 0:
            return chance.choice(_ANSWERS)
        case 1:
            return answer * 2
        case 2:
            return answer[: chance.randrange(len(answer))]
        case 3:
            return re.sub(rb"IDLE|STOP|BRAKE", b"MOVE", answer)
        case 4:
            return re.sub(rb"\d+", lambda _: str(chance.randrange(-9, 10**9)).encode(), answer)
        case _:
            return answer.replace(b",", b";")


def _serve(listener: socket.socket, chance: random.Random) -> None:
    """Be the stand-in for one connection, but spoil some answers, from some time on."""
    board, session = StandIn(SteadyClock()), Session()
    good, often = chance.choice((0, 2, 6, 9, 12, 20)), chance.choice((0.05, 0.3, 1.0))
    with contextlib.suppress(OSError), listener, listener.accept()[0] as connection:
        connection.settimeout(0.01)
        while True:
            with contextlib.suppress(TimeoutError):
                data = connection.recv(4096)
                if not data:
                    return
                take(session, data)
            answer = work(board, session)
            while is_ready(board, session):
                answer += work(board, session)
            good -= bool(answer)
            if answer and good < 0 and chance.random() < often:
                answer = _spoilt(answer, chance)
                if not answer and chance.random() < 0.3:
                    return
            connection.sendall(answer)


def attack(chance: random.Random, scale: float) -> Outcome:
    """Run a plan on boards that answer at random; every second run is stopped."""
    outcome, longest_s = Outcome(), 0.0
    made = plan(load_example(FEEDER_CAROUSEL))
    limits = [mock.patch(name, value) for name, value in _TIMES.items()]
    limits.append(mock.patch.multiple("kivant.app.running.streamer", STOPPING_S=0.5, POWER_OFF_S=0.2))
    with contextlib.ExitStack() as stack:
        for limit in limits:
            stack.enter_context(limit)
        for number in range(max(round(300 * scale), 1)):
            listener = socket.create_server(("127.0.0.1", 0))
            board = threading.Thread(target=_serve, args=(listener, random.Random(chance.random())), daemon=True)
            board.start()
            streamer = Streamer(lambda: PlanSource(made), f"127.0.0.1:{listener.getsockname()[1]}")
            run = threading.Thread(target=streamer.execute, daemon=True)
            begun = time.monotonic()
            run.start()
            run.join(0.3)
            for _ in range(number % 3):
                streamer.stop()
            run.join(_MOST_S)
            took_s = time.monotonic() - begun
            longest_s = max(longest_s, took_s)
            said = streamer.status.message.isprintable() and "Kivant's own" not in streamer.status.message
            # A board that says forever that it moves may be watched forever, until somebody stops.
            endless = run.is_alive() and number % 3 > 0
            outcome.check(
                not endless and said, f"after {took_s:.0f} s: {streamer.status.phase}, {streamer.status.message[:100]}"
            )
            if run.is_alive():
                streamer.stop()
                streamer.stop()
            run.join(_MOST_S)
    outcome.worst = f"{longest_s:.1f} s"
    return outcome
