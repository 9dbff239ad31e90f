"""Easing: straight lines of a tool whose accelerations change gently, within the limits of jerk.

A mean over some time of what moves in steps of acceleration has ramps of acceleration in their place: the mean of a
trapezoid is an S-curve. So each place of a line is come to at the mean of the times around it.

References
----------
L. Biagiotti and C. Melchiorri, "FIR Filters for Online Trajectory Planning with Time- and Frequency-Domain
Specifications", Control Engineering Practice, 2012 (moving averages of trajectories).
"""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

import numpy as np

from kivant.core.motion.lines.checks import excesses, motion_along
from kivant.core.motion.lines.cubic_course import Cubics
from kivant.core.motion.lines.limits import LineLimits
from kivant.core.motion.lines.line import Line
from kivant.core.motion.lines.line_rates import Places, Rates, rates_along
from kivant.core.motion.lines.settling import Tried, settled
from kivant.core.motion.s_curve import s_curve
from kivant.core.motion.segment import Reals

_SHARES = (0.75, 1.0, 1.25, 1.6)  # of the time in which an acceleration is built up on an even way
_ENOUGH = 1.02  # times as slow as planned
_HALVINGS = 20
_SHORTEST_S = 1e-4  # shorter means are lost in rounding: where only axes that hardly move have a jerk
_SAME = 1e-9  # of a time: what rounding may make of two that are one
_LEAP = 0.02  # of the greatest acceleration: a smaller change of it is none
_CORNERS = 12  # changes of the acceleration: with more of them, it changes all the time
_APART = 0.2  # of the even time between two looks: how near to one another they are at the most
_TINY = 1e-12


def eased(
    line: Line, limits: LineLimits, factor: float, places: Places, checkpoint: Callable[[], None]
) -> tuple[Cubics, float]:
    """Return cubics whose accelerations change gently, within all limits: means of the way over some time.

    Over how much time is tried; the fastest are taken. With them comes how many times as slow as planned they had to be
    at first.
    """

    def tried(over: float, slack: Reals | float = 1.0) -> Tried:
        checkpoint()
        lowered = partial(limits.outside_bands, places.slopes)
        laid = _cruising(rates_along(line, limits.eased(over), factor, places, slack), over, lowered)
        cubics = _means(line, laid, places.slopes[[0, -1]], over)
        return Tried(laid, cubics, excesses(cubics, motion_along(line, cubics), limits, factor), over)

    first = min(map(tried, _easings(line, limits, factor, places.share)), key=lambda one: one.seconds)
    return settled(first, partial(tried, first.over), _ENOUGH), first.slowness


def _easings(line: Line, limits: LineLimits, factor: float, share: Reals) -> list[float]:
    """Return over how much time accelerations may be built up and taken away, s: about as on an even way as far."""
    ways = np.maximum(np.abs(np.diff(line.at(share), axis=0)).sum(axis=0), _TINY)
    every = limits.speeds(factor), limits.acceleration, limits.deceleration, limits.start_speed, limits.jerk
    speed, up, down, start, jerk = ((column / ways).min(keepdims=True) for column in every)
    ramp = s_curve(np.ones(1), speed=speed, acceleration=up, deceleration=down, start_speed=start, jerk=jerk)
    first, *_others, last = np.diff(ramp.breaks_s[0]).tolist()
    found = [first, last] if abs(first - last) > _SAME * last else [first]
    easings = [part * own for own in found for part in _SHARES if own] or np.sqrt(speed / jerk).tolist()
    return sorted({max(own, _SHORTEST_S) for own in easings})


def _cruising(laid: Rates, seconds: float, lowered: Callable[[Reals], Reals]) -> Rates:
    """Return rates for a line that is gone so much longer, below a ceiling at which it is gone for as long at least.

    Else speeding up would change into slowing down at once, with twice the jerk.
    """
    low, high = 0.0, float(laid.rates.max())
    found, cruise_s = laid.below(high, lowered).lasting(seconds)
    if cruise_s >= seconds:
        return found
    for _ in range(_HALVINGS):
        middle = (low + high) / 2
        other, cruise_s = laid.below(middle, lowered).lasting(seconds)
        if cruise_s >= seconds:
            low, found = middle, other
        else:
            high = middle
    return found


def _means(line: Line, laid: Rates, slopes: Reals, over: float) -> Cubics:
    """Return cubics along a line whose share at any time is the mean of what it was over some time before.

    As if it had been gone before at the rate that is jumped to, and were so afterwards at that which is jumped from.
    `slopes` are those of the axes at both ends, shape (2, axes).
    """
    from scipy.interpolate import CubicSpline  # loaded where axes have a jerk

    rates, times = np.pad(laid.rates, 1, "edge"), np.pad(laid.times, 1, constant_values=over)
    share = np.concatenate(([-over * rates[0]], laid.share, [laid.share[-1] + over * rates[-1]]))
    begin = np.concatenate(([-over], np.cumsum(times) - over))
    change = np.diff(rates) / times
    pieces = times * (share[:-1] + times * (rates[:-1] / 2 + times * change / 6))
    areas = np.concatenate(([0.0], np.cumsum(pieces)))

    def area(at: Reals) -> Reals:
        k = np.clip(np.searchsorted(begin, at, "right") - 1, 0, len(times) - 1)
        t = at - begin[k]
        return np.asarray(areas[k] + t * (share[k] + t * (rates[k] / 2 + t * change[k] / 6)))

    when = _knots(begin[1:-1], change[1:-1], over)
    found = np.clip((area(when) - area(when - over)) / over + rates[0] * over / 2, 0.0, 1.0)
    found[0], found[-1] = 0.0, 1.0
    at = line.at(np.maximum.accumulate(found))
    ends = [(1, slope * rate) for slope, rate in zip(slopes, rates[[0, -1]], strict=True)]
    return Cubics.through(at, np.asarray(CubicSpline(when, at, bc_type=ends)(when, 1)), np.diff(when))


def _knots(begin: Reals, change: Reals, over: float) -> Reals:
    """Return times at which a line is looked at: evenly, and where its jerk changes, so that no spline overshoots.

    Where it changes all the time, as beside the centre of a turntable, there is nothing to overshoot.
    """
    leaps = np.flatnonzero(np.abs(np.diff(change)) > _LEAP * np.abs(change).max()) + 1
    even = np.linspace(0.0, begin[-1] + over, 2 * len(change) + 1)
    if len(leaps) > _CORNERS:
        return even
    corners = begin[np.concatenate(([0], leaps, [len(begin) - 1]))]
    corners = np.sort(np.concatenate((corners, corners + over)))
    corners = corners[np.append(True, np.diff(corners) > _SHORTEST_S / 2)]
    after = np.clip(corners.searchsorted(even), 1, len(corners) - 1)
    beside = np.minimum(np.abs(even - corners[after - 1]), np.abs(even - corners[after]))
    return np.sort(np.concatenate((corners, even[beside > _APART * even[1]])))
