"""Running a plan on a board: set up, stream, watch, stop, compare. One code for window and command line."""

from __future__ import annotations

import contextlib
import threading
from collections import deque
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field, replace
from itertools import islice
from typing import Literal

from kivant.app.wiring import set_up
from kivant.board.link import BoardError, Link
from kivant.board.protocol import block
from kivant.board.spans import Span, pack, spans
from kivant.core.errors import Fault
from kivant.core.findings import Finding
from kivant.core.plan import Plan

Phase = Literal["connecting", "moving", "braking", "done", "stopped", "failed"]

MOST_MESSAGES = 5000
"""How many messages of a run are kept."""

_POLL_S = 0.03
_BATCH = 96  # spans a message: small enough for the board to answer between them


@dataclass(frozen=True, slots=True)
class AxisResult:
    """What was planned and what the board counted, in steps from position 0."""

    name: str
    planned_steps: int
    board_steps: int


@dataclass(frozen=True, slots=True)
class Status:
    """Where a run is: published whole, so that a reader never sees half of a change.

    ``counts`` are the board's, none before it has told any; ``elapsed_s`` is its time since the start of the
    motion.
    """

    phase: Phase = "connecting"
    board: str = ""
    elapsed_s: float = 0.0
    counts: tuple[int, ...] = ()
    room: int = 0
    sent: int = 0
    power: bool = True
    message: str = ""
    results: tuple[AxisResult, ...] = ()

    @property
    def over(self) -> bool:
        """Whether the run has ended, in whatever way."""
        return self.phase in ("done", "stopped", "failed")

    @property
    def agrees(self) -> bool:
        """Whether the run went to its end and every axis was counted where the plan ends."""
        return self.phase == "done" and all(r.planned_steps == r.board_steps for r in self.results)


@dataclass(slots=True)
class Log:
    """The latest messages to and from the board, newest last; ``count`` is how many there have been."""

    lines: deque[tuple[str, str]] = field(default_factory=lambda: deque(maxlen=MOST_MESSAGES))
    count: int = 0
    _changing: threading.Lock = field(default_factory=threading.Lock)

    def add(self, way: str, text: str) -> None:
        """Add a message that was said (``>``) or heard (``<``)."""
        with self._changing:
            self.lines.append((way, text))
            self.count += 1

    def since(self, count: int) -> tuple[int, list[tuple[str, str]]]:
        """Return how many there have been, and those after the first `count` as far as they are kept."""
        with self._changing:
            new = min(self.count - count, len(self.lines))
            return self.count, list(islice(self.lines, len(self.lines) - new, None))


class Run:
    """One run of one plan.

    Parameters
    ----------
    plan : Plan
    address : str or None
        ``host:port`` of a board; None: a stand-in of its own, for the time of the run.
    watchdog_s : float
        After how long a silence the board is to brake by itself.
    clock : callable or None
        For a stand-in of its own: seconds.
    """

    by_hand = False

    def __init__(
        self,
        plan: Plan,
        address: str | None = None,
        *,
        watchdog_s: float = 1.0,
        clock: Callable[[], float] | None = None,
    ) -> None:
        self.plan, self.address = plan, address
        self.log = Log()
        self.status = Status()
        self._watchdog_s, self._clock = watchdog_s, clock
        self._stops = 0
        self._stops_sent = 0
        self._wake = threading.Event()

    def stop(self) -> None:
        """Stop: the first call brakes on the ramp and keeps the power, the second takes it away at once."""
        self._stops += 1
        self._wake.set()

    def execute(self) -> Status:
        """Do the whole run in the calling thread; return how it ended. Errors end up in the status."""
        try:
            _refuse_errors(self.plan.findings)
            with self._board() as address, Link(address, self.log.add) as link:
                self._publish(board=address)
                self._greet(link)
                self._stream(link)
        except BoardError as error:
            self._publish(phase="failed", message=str(error))
        return self.status

    def _board(self) -> contextlib.AbstractContextManager[str]:
        if self.address is not None:
            return contextlib.nullcontext(self.address)

        @contextlib.contextmanager
        def own() -> Iterator[str]:
            from kivant.board.server import BoardServer  # a server costs start time that few runs of Kivant need

            with BoardServer(clock=self._clock) as server:
                yield server.address

        return own()

    def _publish(self, **changes: object) -> None:
        self.status = replace(self.status, **changes)  # type: ignore[arg-type]

    def _greet(self, link: Link) -> None:
        answer = link.ask("*IDN?")
        if answer.count(",") != 3:
            raise link.rubbish("*IDN?", answer)
        link.tell("ABORt;*CLS")
        for command in set_up(self.plan):
            link.tell(command)
        link.tell(f"SYSTem:WATChdog {self._watchdog_s:g}")
        self._refuse_reported(link, "refused the machine")

    def _refuse_reported(self, link: Link, what: str) -> None:
        answer = link.ask("SYSTem:ERRor?")
        number, _, text = answer.partition(",")
        try:
            failed = int(number) != 0
        except ValueError:
            raise link.rubbish("SYSTem:ERRor?", answer) from None
        if failed:
            said = text.strip().strip('"')
            place, message = f"board {link.address}", f"The board {what}: {said} ({number})."
            raise BoardError(Fault(place, message, "Compare the machine's lines and axes with the board's."))

    def _stream(self, link: Link) -> None:
        rest = spans(self.plan)
        waiting = list(islice(rest, _BATCH))
        if not waiting:
            self._finish(link, "done")
            return
        waiting = self._fill(link, rest, waiting)
        link.tell("INITiate")
        self._refuse_reported(link, "refused to move")
        self._publish(phase="moving")
        while True:
            self._send_stops(link)
            state, room = self._look(link)
            if state == "STOP":
                self._finish(link, "stopped")
                return
            if state == "IDLE":
                self._finish(link, "stopped" if self._stops_sent and waiting else "done")
                return
            if state == "MOVE" and waiting and room >= min(_BATCH, len(waiting)):
                waiting = self._fill(link, rest, waiting)
            self._wake.wait(_POLL_S)
            self._wake.clear()

    def _fill(self, link: Link, rest: Iterator[Span], waiting: list[Span]) -> list[Span]:
        """Send spans while there is room for a whole batch; return the first batch that did not fit."""
        while waiting and not self._stops > self._stops_sent:
            answer = link.ask("MOTion:APPend? ", block(pack(waiting)))
            room = _numbers(link, "MOTion:APPend?", answer, 2)[1]
            self._publish(sent=self.status.sent + len(waiting), room=room)
            waiting = list(islice(rest, _BATCH))
            if room < _BATCH:
                break
        if not waiting:
            link.tell("MOTion:END")
        return waiting

    def _send_stops(self, link: Link) -> None:
        if self._stops == 1 and not self._stops_sent:
            link.tell("ABORt")
            self._stops_sent = 1
            self._publish(phase="braking")
        self._cut_power(link)

    def _cut_power(self, link: Link) -> None:
        """Take the power away where stop was asked for twice, also when the motion ended in between."""
        if self._stops > 1 and self.status.power:
            link.tell("OUTPut OFF")
            self._stops_sent = self._stops
            self._publish(power=False)

    def _look(self, link: Link) -> tuple[str, int]:
        answer = link.ask("MOTion:STATe?")
        state, _, figures = answer.partition(",")
        if state not in ("IDLE", "MOVE", "BRAKE", "STOP"):
            raise link.rubbish("MOTion:STATe?", answer)
        elapsed, room, *counts = _numbers(link, "MOTion:STATe?", figures, 2 + len(self.plan.axes))
        phase: Phase = "braking" if state == "BRAKE" else self.status.phase
        self._publish(phase=phase, elapsed_s=elapsed * 1e-6, room=room, counts=tuple(counts))
        return state, room

    def _finish(self, link: Link, phase: Phase) -> None:
        self._cut_power(link)
        if phase == "stopped" and not self._stops_sent:
            self._refuse_reported(link, "stopped by itself")
        figures = link.ask("POSition?") if self.plan.axes else ""
        counts = _numbers(link, "POSition?", figures, len(self.plan.axes)) if self.plan.axes else []
        results = tuple(
            AxisResult(axis.name, axis.final_steps, count) for axis, count in zip(self.plan.axes, counts, strict=True)
        )
        self._publish(phase=phase, counts=tuple(counts), results=results)


def _refuse_errors(findings: tuple[Finding, ...]) -> None:
    errors = [Fault(f.place, f.message, f.remedy) for f in findings if f.severity == "error"]
    if errors:
        raise BoardError(*errors)


def _numbers(link: Link, message: str, answer: str, count: int) -> list[int]:
    try:
        numbers = [int(part) for part in answer.split(",")]
    except ValueError:
        raise link.rubbish(message, answer) from None
    if len(numbers) != count:
        raise link.rubbish(message, answer)
    return numbers
