"""Where a run is, and what was said to and by the board."""

from __future__ import annotations

import threading
from collections import deque
from collections.abc import Mapping
from itertools import islice
from typing import Literal

from msgspec import Struct, field

Phase = Literal["connecting", "moving", "holding", "braking", "done", "stopped", "failed"]

MOST_MESSAGES = 5000
"""How many messages of a run are kept."""


class AxisResult(Struct, frozen=True):
    """What was planned and what the board counted, in steps from position 0."""

    name: str
    planned_steps: int
    board_steps: int


class Status(Struct, frozen=True):
    """Where a run is: published whole, so that a reader never sees half of a change.

    ``counts`` are the board's, none before it has told any; ``elapsed_s`` is its time since the start of the
    motion. ``pointers`` is what those at the tools show in the end, in axis units by name, where the board has any.
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
    pointers: Mapping[str, float] = field(default_factory=dict)

    @property
    def over(self) -> bool:
        """Whether the run has ended, in whatever way."""
        return self.phase in ("done", "stopped", "failed")

    @property
    def agrees(self) -> bool:
        """Whether the run went to its end and every axis was counted where the plan ends."""
        return self.phase == "done" and all(r.planned_steps == r.board_steps for r in self.results)


class Log(Struct):
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
