"""The client: what a host wants of a board, in words of motion, said in the board's language."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from typing import Literal, NamedTuple, get_args

from kivant.board.protocol.link import MOST_QUOTED, Link
from kivant.board.protocol.record import VERSION, Span, pack
from kivant.board.protocol.setup import set_up
from kivant.board.protocol.syntax import block
from kivant.board.transport import BoardError, SilentBoardError
from kivant.core.errors import Fault, shown
from kivant.core.machine import Machine

_NUMBER = re.compile(r"[+-]?[0-9]{1,19}", re.ASCII)  # no board counts further

_QUOTED = re.compile(r'"((?:[^"]|"")*)"')

MotionState = Literal["IDLE", "MOVE", "BRAKE", "STOP"]


class BoardState(NamedTuple):
    """How a motion stands: `elapsed_s` of it have been played, `begun` spans have begun, `room` is left for more."""

    motion: MotionState
    elapsed_s: float
    begun: int
    room: int
    counts: tuple[int, ...]


class Client:
    """Speaks to one board over a link; every method may raise `BoardError`."""

    def __init__(self, link: Link) -> None:
        self._link = link
        self.address = link.address
        self._axes = 0
        self._pointed: dict[int, str] = {}  # axes with a pointer, from 1

    def set_up(self, machine: Machine, places: Sequence[int], watchdog_s: float) -> None:
        """Make the board ready: what it was doing is forgotten, its axes stand at `places`, its output is on.

        Parameters
        ----------
        machine : Machine
        places : sequence of int, 2^-32 step
        watchdog_s : float
            After how long a silence it is to brake by itself.

        Raises
        ------
        BoardError
            If it is not a board, does not play the records that are sent, or refuses the machine.
        """
        answer = self._link.ask("*IDN?")
        if answer.count(",") != 3:
            raise self._link.rubbish("*IDN?", answer)
        self._axes = len(machine.axes)
        self._link.tell("ABORt;*CLS")
        self._refuse_other_records()
        names = self._pointers()
        self._pointed = {k: axis.name for k, axis in enumerate(machine.axes, start=1) if axis.name in names}
        for command in set_up(machine, places, names):
            self._link.tell(command)
        self._link.tell(f"SYSTem:WATChdog {watchdog_s:g}")
        self.refuse_reported("refused the machine")

    def _refuse_other_records(self) -> None:
        # A board that does not know the first question answers the second one only.
        answer = self._link.ask("MOTion:RECords?;:SYSTem:ERRor?")
        versions = answer.partition(";")[0].split(",")
        if str(VERSION) in versions:
            return
        known = all(version.isdecimal() for version in versions)
        plays = f"motion records of version {', '.join(versions)}" if known else "older motion records"
        self._link.tell("*CLS")
        message = f"The board plays {plays}; Kivant sends version {VERSION}."
        remedy = "Use firmware that plays them: docs/board-protocol.md describes the records."
        raise BoardError(Fault(f"board {self._link.address}", message, remedy))

    def _pointers(self) -> frozenset[str]:
        """Return the axes at whose tools the board has a pointer; one that knows of none need not know the question."""
        names, _, error = self._link.ask("POINter:CATalog?;:SYSTem:ERRor?").rpartition(";")
        if not error.startswith("0,"):
            self._link.tell("*CLS")
        return frozenset(name.replace('""', '"') for name in _QUOTED.findall(names))

    def refuse_reported(self, what: str) -> None:
        """Raise what the board has reported as an error, if anything; `what` says what it did because of it.

        Raises
        ------
        BoardError
            With the board's own words.
        """
        answer = self._link.ask("SYSTem:ERRor?")
        number, _, text = answer.partition(",")
        try:
            failed = int(number) != 0
        except ValueError:
            raise self._link.rubbish("SYSTem:ERRor?", answer) from None
        if failed:
            said = shown(text.strip().strip('"'), MOST_QUOTED)
            place, message = f"board {self._link.address}", f"The board {what}: {said} ({number})."
            raise BoardError(Fault(place, message, "Compare the machine's lines and axes with the board's."))

    def append(self, spans: Sequence[Span]) -> int:
        """Send spans; return for how many more there is room."""
        return self._numbers("MOTion:APPend?", self._fed("MOTion:APPend? ", block(pack(spans))), 2)[1]

    def replace(self, spans: Sequence[Span], first: int, last: bool) -> int | None:
        """Send spans in place of those from number `first` on; return the room, None if that one has begun.

        `last`: no more will follow. Said in the same message, it keeps the board from braking for lack of them.
        """
        body = block(pack(spans)) + (b";END" if last else b"")
        answer = self._fed(f"MOTion:REPLace? {first},", body)
        in_time, _accepted, room = self._numbers("MOTion:REPLace?", answer, 3)
        return room if in_time else None

    def _fed(self, message: str, body: bytes) -> str:
        """Send spans and return the answer; a board that refuses them does not answer, but knows why."""
        try:
            return self._link.ask(message, body)
        except SilentBoardError:
            self.refuse_reported("refused the motion")
            raise

    def end(self) -> None:
        """Say that no more spans will follow."""
        self._link.tell("MOTion:END")

    def start(self) -> None:
        """Play what was sent.

        Raises
        ------
        BoardError
            If the board does not.
        """
        self._link.tell("INITiate")
        self.refuse_reported("refused to move")

    def brake(self) -> None:
        """Stop in category 2: braked on the ramp, power kept."""
        self._link.tell("ABORt")

    def cut_power(self) -> None:
        """Stop in category 0: the power is taken away at once."""
        self._link.tell("OUTPut OFF")

    def look(self) -> BoardState:
        """Return how the motion stands.

        Raises
        ------
        BoardError
            If the answer is not a board's.
        """
        answer = self._link.ask("MOTion:STATe?")
        state, _, figures = answer.partition(",")
        if state not in get_args(MotionState):
            raise self._link.rubbish("MOTion:STATe?", answer)
        elapsed, begun, room, *counts = self._numbers("MOTion:STATe?", figures, 3 + self._axes)
        motion: MotionState = state  # type: ignore[assignment]
        return BoardState(motion, elapsed * 1e-6, begun, room, tuple(counts))

    def counts(self) -> tuple[int, ...]:
        """Return what the board has counted, in steps from position 0."""
        return tuple(self._numbers("POSition?", self._link.ask("POSition?"), self._axes)) if self._axes else ()

    def pointers(self) -> dict[str, float]:
        """Return what the pointers show, in axis units by the names of the axes; the board may have none."""
        return {name: self._shown(f"AXIS{number}:POINter?") for number, name in self._pointed.items()}

    def _shown(self, message: str) -> float:
        answer = self._link.ask(message)
        try:
            found = float(answer)
        except ValueError:
            found = math.nan
        if not math.isfinite(found):
            raise self._link.rubbish(message, answer)
        return found

    def _numbers(self, message: str, answer: str, count: int) -> list[int]:
        parts = answer.split(",")
        if len(parts) != count or not all(_NUMBER.fullmatch(part) for part in parts):
            raise self._link.rubbish(message, answer)
        return list(map(int, parts))
