"""Segments: stretches of time in which one axis moves one way along one polynomial, and the steps on them.

Every segment is solved from the end at which the axis is slower, its anchor. Without jerk the time from there to a
distance x is t = 2 x / (v + sqrt(v² + 2 a x)): that form has no difference of nearly equal numbers in it, so the last
step of a long move is as exact as the first. With jerk, x = v t + a t²/2 + j t³/6 is solved by Newton's method,
kept between bounds that close in on the root.

References
----------
W. H. Press et al., *Numerical Recipes*, 3rd ed., Cambridge University Press, 2007, sec. 9.4 (safeguarded Newton).
"""

from __future__ import annotations

import math
from typing import Any, Generic, NamedTuple, TypeVar

import numpy as np
from numpy.typing import NDArray

STANDSTILL = 1e-150
"""Stands for speed 0: its square still is a number, so 0/0 cannot arise."""

Reals = NDArray[np.float64]
Wholes = NDArray[np.int64]
NO_ROWS: Wholes = np.zeros(0, np.int64)
ONE: Wholes = np.array(1)  # short columns take half as long with these as with numbers of Python's
NOUGHT: Reals = np.array(0.0)
Real = TypeVar("Real", float, Reals)
Whole = TypeVar("Whole", int, Wholes)

_MOST_ROUNDS = 80  # halving alone needs about 60


class Segment(NamedTuple, Generic[Real, Whole]):
    """One segment (or columns of them), anchored where the axis is slower; in steps and s."""

    begin_s: Real
    end_s: Real
    forward: Whole  # +1: the anchor is the beginning; -1: the end, and time runs backwards from it
    sign: Whole
    speed: Real  # at the anchor
    top: Real  # at the other end
    acceleration: Real  # at the anchor, away from it in time
    jerk: Real  # away from the anchor in time
    first: Whole  # index of the first step of the segment
    base: Whole  # index of the step next to the anchor
    near: Real  # distance of that step from the anchor

    @property
    def anchor_s(self) -> Real:
        """When the anchor is, s."""
        if isinstance(self.begin_s, np.ndarray):
            return np.where(self.forward > 0, self.begin_s, self.end_s)
        return self.begin_s if self.forward > 0 else self.end_s


# For annotations: making one by these names takes three times as long.
SegmentRow = Segment[float, int]
SegmentColumns = Segment[Reals, Wholes]


def instant_on(segment: SegmentRow, step: int) -> float:
    """Return when step number `step` happens on a segment, in s."""
    x = (step - segment.base) * segment.forward + segment.near
    v, a = segment.speed, segment.acceleration
    if segment.jerk:
        away = float(solve_cubic(np.array([x]), v, a, segment.jerk, segment.end_s - segment.begin_s)[0])
    else:
        away = 2 * x / (v + math.sqrt(v**2 + 2 * a * x))
    return segment.anchor_s + segment.forward * away


def instants_of(segments: SegmentColumns, steps: Wholes) -> Reals:
    """Return when one step on each segment happens, in s: `instant_on` for columns."""
    p = segments
    forward = p.forward.astype(np.float64)
    x = (steps - p.base) * forward + p.near
    away = 2 * x / (p.speed + np.sqrt(np.abs(p.speed * p.speed + 2 * p.acceleration * x)))
    jerky = p.jerk.nonzero()[0]
    if len(jerky):
        longest = (p.end_s - p.begin_s)[jerky]
        away[jerky] = solve_cubic(x[jerky], p.speed[jerky], p.acceleration[jerky], p.jerk[jerky], longest)
    return np.where(forward > 0.0, p.begin_s, p.end_s) + forward * away


# For one segment with a time, or columns of segments with an array of times.


def way_on(segment: Any, away: Any) -> Any:
    """Return the way with its sign from the anchors of segments, in steps, so long after (or before) them, s."""
    way = away * (segment.speed + away * (segment.acceleration / 2 + away * (segment.jerk / 6)))
    return segment.sign * segment.forward * way


def speed_on(segment: Any, away: Any) -> Any:
    """Return the speed on segments without sign, in steps/s, so long after (or before) their anchors, s."""
    return segment.speed + away * (segment.acceleration + away * (segment.jerk / 2))


def solve_cubic(
    x: Reals, speed: Reals | float, acceleration: Reals | float, jerk: Reals | float, longest_s: Reals | float
) -> Reals:
    """Return when ``speed t + acceleration t²/2 + jerk t³/6`` reaches `x`, s, same shape as `x`.

    The polynomial rises from 0 to `longest_s`, where it has reached every `x`.
    """
    low, high = np.zeros_like(x), np.broadcast_to(np.asarray(longest_s, np.float64), x.shape).copy()
    with np.errstate(divide="ignore", invalid="ignore"):
        # What jerk alone would take is exact at standstill, what the rest alone would take nearly so where it is fast.
        guess = 2 * x / (speed + np.sqrt(np.maximum(speed * speed + 2 * acceleration * x, 0.0)))
        guess = np.fmin(guess, np.where(np.asarray(jerk) > 0, np.cbrt(6 * x / np.abs(jerk)), np.inf))
        time = np.where(np.isfinite(guess), np.minimum(guess, high), high)
        for _ in range(_MOST_ROUNDS):
            excess = time * (speed + time * (acceleration / 2 + time * (jerk / 6))) - x
            slope = speed + time * (acceleration + time * (jerk / 2))
            high, low = np.where(excess > 0, time, high), np.where(excess <= 0, time, low)
            newton = time - excess / slope
            inside = (newton >= low) & (newton <= high)
            following = np.where(excess == 0, time, np.where(inside, newton, (low + high) / 2))
            if np.all(np.abs(following - time) <= 4e-16 * following):
                return following
            time = following
    return time
