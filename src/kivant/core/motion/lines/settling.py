"""Settling: where cubics along a line need more than was planned, it is planned to be gone slower there, and again."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from kivant.core.motion.lines.cubic_course import Cubics
from kivant.core.motion.lines.line_rates import Rates
from kivant.core.motion.segment import Reals

_ROUNDS = 3


class Tried(NamedTuple):
    """Cubics along a line as it was planned, and how many times as slow each has to be.

    ``over`` is for how long they are means of what was planned, s; 0 where they go as planned.
    """

    planned: Rates
    cubics: Cubics
    slower: Reals
    over: float = 0.0

    @property
    def slowness(self) -> float:
        """How many times as slow all of it has to be."""
        return float(self.slower.max())

    @property
    def seconds(self) -> float:
        """How long it takes then, s."""
        return self.slowness * float(self.cubics.times.sum())

    def slack(self) -> Reals:
        """Return how many times as slow it has to be from each share to the next, shape (shares - 1,)."""
        if not self.over:
            return self.slower
        ends = np.cumsum(self.cubics.times)
        begins, last = ends - self.cubics.times, np.cumsum(self.planned.times)
        # What is gone at a time is a mean of what is planned for that long before it.
        first = np.minimum(ends.searchsorted(last - self.planned.times, "right"), len(ends) - 1)
        after = np.maximum(begins.searchsorted(last + self.over), first + 1)
        return np.array([self.slower[a:b].max() for a, b in zip(first.tolist(), after.tolist(), strict=True)])


def settled(first: Tried, again: Callable[[Reals], Tried], enough: float) -> Cubics:
    """Return the fastest cubics within all limits; `again` tries it so many times as slow from each share to the next.

    It is enough if all of it has to be no more than some times as slow.
    """
    best, now, slack = first, first, np.ones(len(first.planned.times))
    for _ in range(_ROUNDS):
        if now.slowness <= enough:
            break
        slack = slack * now.slack()
        now = again(slack)
        best = min(best, now, key=lambda one: one.seconds)
    return best.cubics.slower(best.slowness)
