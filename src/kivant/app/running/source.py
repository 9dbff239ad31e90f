"""Sources of motion: what a streamer plays on a board.

A source is made from where the axes stand and hands out spans when there is something to send. `PlanSource` plays
a plan, `kivant.app.running.manual_move.ManualMove` what a hand pulls; another one is a module of its own.
"""

from __future__ import annotations

from collections.abc import Callable
from itertools import islice
from typing import Protocol

from kivant.board.protocol.spans import Span, spans
from kivant.core.machine import Machine
from kivant.core.motion.plan import Plan

BATCH = 96
"""Spans a message at the most: small enough for the board to answer between them."""


class MotionSource(Protocol):
    """Where spans come from.

    ``machine`` and ``start_steps`` say what is moved and from where; ``poll_s`` how often the source wants to be
    asked; ``stops_itself`` whether it brakes by its own spans when a stop is asked for, or has the board brake.
    """

    machine: Machine
    start_steps: tuple[int, ...]
    poll_s: float
    stops_itself: bool

    def take(self, played_s: float, room: int) -> list[Span]:
        """Return the next spans to send, none for now or for ever; `room` is for how many the board has room."""

    @property
    def ended(self) -> bool:
        """Whether no more spans will come."""

    def stop(self) -> None:
        """Come to rest: a stop was asked for."""

    def final_steps(self) -> tuple[int, ...]:
        """Return where every axis stands in the end, in steps."""


MakeSource = Callable[[], MotionSource]
"""Makes a source on the streamer's thread; it may raise `KivantError`."""


class PlanSource:
    """Plays a plan from its start to its end."""

    poll_s = 0.03
    stops_itself = False

    def __init__(self, plan: Plan) -> None:
        self.plan, self.machine = plan, plan.machine
        self.start_steps = tuple(axis.start_steps for axis in plan.axes)
        self._rest = spans(plan)
        self._next = list(islice(self._rest, BATCH))

    @property
    def ended(self) -> bool:
        """Whether all of the plan has been taken."""
        return not self._next

    def take(self, _played_s: float, room: int) -> list[Span]:
        """Return a whole batch while there is room for it."""
        if room < len(self._next):
            return []
        batch, self._next = self._next, list(islice(self._rest, BATCH))
        return batch

    def stop(self) -> None:
        """Leave it to the board, which brakes along the path."""

    def final_steps(self) -> tuple[int, ...]:
        """Return where the plan ends."""
        return tuple(axis.final_steps for axis in self.plan.axes)
