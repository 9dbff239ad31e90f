"""Playing one axis: when it takes the steps of a span, no closer together than its driver can take them."""

from __future__ import annotations

import math

import numpy as np
from msgspec import Struct

from kivant.board.protocol.record import PLACE_BITS, AxisSpan
from kivant.board.standin.sums import step_ticks, steps_in
from kivant.core.travel.mechanics import Pointer

_NONE = np.zeros(0)
HALF_WAY = 1 << PLACE_BITS - 1
"""The share of a place that stands exactly on its step."""


class Timing(Struct):
    """The least times of an axis, s: between two steps, between one and one the other way, to a change of direction."""

    interval_s: float = 0.0
    turn_s: float = 0.0
    hold_s: float = 0.0


class AxisPlay:
    """Counts of one axis; times are in s of motion from the beginning of the span that is being played."""

    def __init__(self) -> None:
        self.timing = Timing()
        self.pointer: Pointer | None = None  # at its tool
        self.put(0)
        self.sign = 1  # of the latest step

    def put(self, count: int, share: int = HALF_WAY) -> None:
        """Stand still at a count, at a share of a step in 2^-32."""
        self.count, self.place = count, (count << PLACE_BITS) + share
        self._times = _NONE
        self._way, self._latest_s = 1, -math.inf

    def begin(self, span: AxisSpan, ticks: int, tick_hz: float) -> None:
        """Find the steps of the span that is played next.

        A step that comes sooner after the one before than the driver can take it waits: never for longer than a
        tick, as the plan keeps the same times.
        """
        steps = steps_in(self.place, span)
        self._way = 1 if steps >= 0 else -1
        if not steps:
            self._times = _NONE
            return
        self._times = step_ticks(self.place, span, ticks) / tick_hz
        interval_s = self.timing.interval_s
        after = interval_s if self._way == self.sign else self.timing.turn_s
        waits = np.arange(len(self._times)) * interval_s
        bare = self._times - waits
        bare[0] = max(bare[0], self._latest_s + after)
        self._times = np.maximum.accumulate(bare) + waits

    def finish(self, span: AxisSpan, seconds: float) -> None:
        """Stand at the end of the span, which has lasted so long."""
        if len(self._times):
            self._latest_s, self.sign = float(self._times[-1]), self._way
        self.count += steps_in(self.place, span)
        self.place, self._times = span.end, _NONE
        self._lead(self.count)
        self._latest_s -= seconds

    def _taken(self, within_s: float) -> int:
        return int(np.searchsorted(self._times, within_s, "right"))

    def at(self, within_s: float) -> int:
        """Return the count at a time."""
        return self.count + self._way * self._taken(within_s)

    def _lead(self, count: int) -> None:
        if self.pointer is not None:  # at least once in every span, in which an axis goes one way
            self.pointer.follow(count)

    def shown(self, within_s: float) -> float:
        """Return what the pointer shows at a time, in axis units; there is one."""
        assert self.pointer is not None
        self._lead(self.at(within_s))
        return self.pointer.read()

    def halt(self, within_s: float) -> None:
        """Stand still where the axis is at a time."""
        taken = self._taken(within_s)
        sign = self._way if taken else self.sign
        self.put(self.at(within_s))
        self._lead(self.count)
        self.sign = sign

    def since_step(self, within_s: float) -> float:
        """Return how long ago the axis took its latest step, s; infinite if it took none."""
        taken = self._taken(within_s)
        return within_s - (float(self._times[taken - 1]) if taken else self._latest_s)

    def direction(self, within_s: float) -> int | None:
        """Return which way the direction line points; None: to the next step, which is not in this span."""
        taken = self._taken(within_s)
        if self.since_step(within_s) < self.timing.hold_s:
            return self._way if taken else self.sign
        return self._way if taken < len(self._times) else None

    def times(self) -> np.ndarray:
        """Return when the steps of the span are taken, ascending."""
        return self._times
