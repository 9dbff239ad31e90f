"""The client: what a host wants of a board, in words of motion, said in the board's language."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal, NamedTuple, get_args

from kivant.board.protocol.link import Link
from kivant.board.protocol.setup import set_up
from kivant.board.protocol.spans import Span, pack
from kivant.board.protocol.syntax import block
from kivant.board.transport import BoardError
from kivant.core.errors import Fault
from kivant.core.machine import Machine

MotionState = Literal["IDLE", "MOVE", "BRAKE", "STOP"]


class BoardState(NamedTuple):
    """How a motion stands: `elapsed_s` of it have been played, `room` for spans is left, and what is counted."""

    motion: MotionState
    elapsed_s: float
    room: int
    counts: tuple[int, ...]


class Client:
    """Speaks to one board over a link; every method may raise `BoardError`."""

    def __init__(self, link: Link) -> None:
        self._link = link
        self._axes = 0

    def set_up(self, machine: Machine, counts: Sequence[int], watchdog_s: float) -> None:
        """Make the board ready: what it was doing is forgotten, its axes stand at `counts`, its output is on.

        Raises
        ------
        BoardError
            If it is not a board, or refuses the machine.
        """
        answer = self._link.ask("*IDN?")
        if answer.count(",") != 3:
            raise self._link.rubbish("*IDN?", answer)
        self._axes = len(machine.axes)
        self._link.tell("ABORt;*CLS")
        for command in set_up(machine, counts):
            self._link.tell(command)
        self._link.tell(f"SYSTem:WATChdog {watchdog_s:g}")
        self.refuse_reported("refused the machine")

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
            said = text.strip().strip('"')
            place, message = f"board {self._link.address}", f"The board {what}: {said} ({number})."
            raise BoardError(Fault(place, message, "Compare the machine's lines and axes with the board's."))

    def append(self, spans: Sequence[Span]) -> int:
        """Send spans; return for how many more there is room."""
        return self._numbers("MOTion:APPend?", self._link.ask("MOTion:APPend? ", block(pack(spans))), 2)[1]

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
        elapsed, room, *counts = self._numbers("MOTion:STATe?", figures, 2 + self._axes)
        motion: MotionState = state  # type: ignore[assignment]
        return BoardState(motion, elapsed * 1e-6, room, tuple(counts))

    def counts(self) -> tuple[int, ...]:
        """Return what the board has counted, in steps from position 0."""
        return tuple(self._numbers("POSition?", self._link.ask("POSition?"), self._axes)) if self._axes else ()

    def _numbers(self, message: str, answer: str, count: int) -> list[int]:
        try:
            numbers = [int(part) for part in answer.split(",")]
        except ValueError:
            raise self._link.rubbish(message, answer) from None
        if len(numbers) != count:
            raise self._link.rubbish(message, answer)
        return numbers
