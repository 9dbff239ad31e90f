"""Sources of motion: what a streamer plays on a board.

A source is made from where the axes stand and offers spans when there is something to send. `PlanSource` plays
a plan, `kivant.app.running.manual_move.ManualMove` what a hand pulls; another one is a module of its own.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from itertools import islice
from typing import NamedTuple, Protocol

from kivant.board.protocol.record import Span
from kivant.board.protocol.spans import spans, start_places
from kivant.core.machine import Machine
from kivant.core.motion.plan import Plan

BATCH = 96
"""Spans a message at the most: small enough for the board to answer between them."""


class Feed(NamedTuple):
    """Spans to send: behind those sent before, or in place of those from number `first` on; `last`: none follow."""

    spans: list[Span]
    first: int | None = None
    last: bool = False


class MotionSource(Protocol):
    """Where spans come from.

    ``machine`` and ``start_places`` (2^-32 step) say what is moved and from where; ``poll_s`` how often the source
    wants to be asked; ``stops_itself`` whether it brakes by its own spans when a stop is asked for, or has the board
    brake.
    """

    machine: Machine
    start_places: tuple[int, ...]
    poll_s: float
    stops_itself: bool

    def offer(self, begun: int, room: int) -> Feed | None:
        """Return what to send next, None for now or for ever.

        `begun` spans have begun to be played on the board, which has room for so many more.
        """

    def accept(self, feed: Feed) -> None:
        """Know that the board has taken what was offered; what it has not is offered anew."""

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
        self.start_places = start_places(plan)
        # Without a step nothing is to be powered or played.
        self._rest: Iterator[Span] = spans(plan) if any(axis.steps for axis in plan.axes) else iter(())
        self._next = list(islice(self._rest, BATCH))

    @property
    def ended(self) -> bool:
        """Whether all of the plan has been taken."""
        return not self._next

    def offer(self, _begun: int, room: int) -> Feed | None:
        """Return as much as there is room for."""
        return Feed(self._next[:room]) if self._next and room else None

    def accept(self, feed: Feed) -> None:
        """Go on behind what was taken."""
        self._next = self._next[len(feed.spans) :]
        self._next += islice(self._rest, BATCH - len(self._next))

    def stop(self) -> None:
        """Leave it to the board, which brakes along the path."""

    def final_steps(self) -> tuple[int, ...]:
        """Return where the plan ends."""
        return tuple(axis.final_steps for axis in self.plan.axes)
