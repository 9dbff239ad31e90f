"""Line rates: how fast a straight line may be gone at each of its places, where accelerations may change at once."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from kivant.core.motion.lines.limits import LineLimits, strips_of
from kivant.core.motion.lines.line import Line
from kivant.core.motion.lines.path_rates import greatest_rates
from kivant.core.motion.segment import Reals

_SAME = 1e-9  # of a rate: what rounding may make of two that are one
_TINY = 1e-12


class Places(NamedTuple):
    """Shares of a line at which it is looked at, and the first and second derivatives of the axes there."""

    share: Reals
    slopes: Reals
    bends: Reals


class Rates(NamedTuple):
    """At which rates shares of a line are come to, how long it takes from each to the next, s, and the ceilings."""

    share: Reals
    rates: Reals
    times: Reals
    ceilings: Reals

    @classmethod
    def at(cls, share: Reals, rates: Reals, ceilings: Reals) -> Rates:
        """Return them with the times that they take."""
        return cls(share, rates, 2 * np.diff(share) / np.maximum(rates[1:] + rates[:-1], _TINY), ceilings)

    def below(self, most: float, lowered: Callable[[Reals], Reals]) -> Rates:
        """Return them below another ceiling, and below what that is lowered to."""
        ceilings = lowered(np.minimum(self.ceilings, most))
        return self.at(self.share, np.minimum(self.rates, ceilings), ceilings)

    def cruises(self) -> NDArray[np.bool_]:
        """Return where the line is gone at its ceiling, from each share to the next."""
        at_it = self.rates >= (1 - _SAME) * self.ceilings
        return np.asarray(at_it[1:] & at_it[:-1])

    def lasting(self, seconds: float) -> tuple[Rates, float]:
        """Return them for a line that is gone so much longer, and for how long it is gone at its ceiling then, s.

        What would be gone in that time, at the mean of the rates at both ends, is left out there.
        """
        cruises, ways = self.cruises(), np.diff(self.share)
        more = seconds * float(self.rates[0] + self.rates[-1]) / 2
        kept = 1 - more / max(float(ways[cruises].sum()), _TINY)
        scale = np.where(cruises, kept, 1.0)
        share, times = np.append(0.0, np.cumsum(ways * scale)), self.times * scale
        return self._replace(share=share, times=times), float(times[cruises].sum())


def rates_along(line: Line, limits: LineLimits, factor: float, places: Places, slack: Reals | float = 1.0) -> Rates:
    """Return how fast a line may be gone where accelerations may change at once.

    With `slack`, an array of shape (places - 1,), it is gone so many times as slow from each place to the next.
    """
    share, slopes, bends = places
    slack = np.broadcast_to(slack, len(share) - 1)
    length = max(line.length, _TINY)
    most = (limits.speeds(factor) / np.maximum(np.abs(slopes), _TINY)).min(axis=1)
    most = np.minimum(most, factor * limits.tool_speed / length)
    most = most / np.maximum(np.append(slack, 1.0), np.append(1.0, slack))
    rates = limits.rates(np.abs(slopes) * most[:, None])
    strips = strips_of(np.diff(share), slopes, bends, rates, (length, limits.tool_acceleration))
    squared = (slack**2)[:, None]
    strips = strips._replace(low=strips.low / squared, high=strips.high / squared)
    jumps = limits.jump(slopes[0], float(most[0])), limits.jump(slopes[-1], float(most[-1]))
    found, ceilings = greatest_rates(share, most, strips, jumps, partial(limits.outside_bands, slopes))
    return Rates.at(share, found, ceilings)
