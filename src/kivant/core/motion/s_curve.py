"""Ramps whose acceleration is limited in its change: up to seven pieces of constant jerk."""

from __future__ import annotations

import numpy as np

from kivant.core.motion.ramp import Ramps, joined, left_over
from kivant.core.motion.segment import Reals

_TINY = 1e-300
_HALVINGS = 64


def _rise(first: Reals, last: Reals, rate: Reals, jerk: Reals) -> tuple[Reals, Reals, Reals]:
    """Return the greatest acceleration from one speed to a higher one, and how long its change and it itself last."""
    gain = np.maximum(last - first, 0.0)
    most = np.minimum(rate, np.sqrt(jerk * gain))
    change = most / jerk
    return most, change, np.where(most < rate, 0.0, np.maximum(gain / np.maximum(most, _TINY) - change, 0.0))


def _way(first: Reals, last: Reals, rate: Reals, jerk: Reals) -> Reals:
    """Return the distance from one speed to a higher one: the mean of both, for as long as it takes."""
    _most, change, steady = _rise(first, last, rate, jerk)
    return (first + last) / 2 * (2 * change + steady)


def way_between(low: float, high: float, rate: float, jerk: float) -> float:
    """Return the distance of a change from one speed to a higher one, or back, with an acceleration and a jerk."""
    one = np.ones(1)
    return float(_way(low * one, high * one, rate * one, jerk * one)[0])


def _halved(low: Reals, high: Reals, distance: Reals, way: Reals | float, rate: Reals, jerk: Reals) -> Reals:
    """Return the greatest speed between two up to which, from `low`, a distance suffices."""
    begin = low
    for _ in range(_HALVINGS):
        middle = (low + high) / 2
        fits = _way(begin, middle, rate, jerk) + way <= distance
        low, high = np.where(fits, middle, low), np.where(fits, high, middle)
    return low


def s_curve(
    distance: Reals,
    *,
    speed: Reals | float,
    acceleration: Reals | float,
    deceleration: Reals | float,
    jerk: Reals | float,
    start_speed: Reals | float = 0.0,
    end_speed: Reals | float | None = None,
) -> Ramps:
    """Return the fastest movements over distances within the limits, jerk among them; seven pieces each.

    The acceleration is 0 at both ends and at the greatest speed. Speeds at the ends are upper limits: where one could
    not be reached from, or braked to, the other within the distance, it is lowered.

    Parameters
    ----------
    jerk : array, shape (n,), or float; distance/s³, > 0
        The same for every change of acceleration. The other parameters are those of `trapezoid`.

    References
    ----------
    L. Biagiotti and C. Melchiorri, *Trajectory Planning for Automatic Machines and Robots*, Springer, 2008, sec. 3.4
    (seven pieces of constant jerk). Where the wished speed is not reached, the greatest one is found by halving: the
    distance only grows with it.
    """
    x = np.asarray(distance, np.float64)
    v, up, down, j = np.broadcast_arrays(speed, acceleration, deceleration, jerk, x)[:4]
    first = np.minimum(start_speed, v)
    last = np.minimum(start_speed if end_speed is None else end_speed, v)
    low = np.minimum(first, last)
    # With the jerk alone, a gain of speed g takes g^1.5 / sqrt(j): more is not gained over the distance.
    gain = np.cbrt(x * x * j)
    first = np.where(_way(low, first, down, j) > x, _halved(low, np.minimum(first, low + gain), x, 0.0, down, j), first)
    last = np.where(_way(low, last, up, j) > x, _halved(low, np.minimum(last, low + gain), x, 0.0, up, j), last)
    begin = np.maximum(first, last)
    top = peak = end = np.minimum(v, begin + gain)
    for _ in range(_HALVINGS):
        fits = _way(first, peak, up, j) + _way(last, peak, down, j) <= x
        begin, end = np.where(fits, peak, begin), np.where(fits, end, peak)
        peak = np.where(fits & (peak == top), top, (begin + end) / 2)
    peak = begin
    return _laid(x, first, peak, last, (up, down, j))


def _laid(x: Reals, first: Reals, peak: Reals, last: Reals, limits: tuple[Reals, Reals, Reals]) -> Ramps:
    """Return the pieces up to the greatest speed and down from it, with a cruise for what is left."""
    up, down, j = limits
    most, change, steady = _rise(first, peak, up, j)
    least, easing, braking = _rise(last, peak, down, j)
    nothing = np.zeros_like(x)
    gained, lost = j * change * change / 2, j * easing * easing / 2
    speeds = np.stack((first, first + gained, peak - gained, peak, peak, peak - lost, last + lost, last), axis=1)
    times = np.stack((change, steady, change, nothing, easing, braking, easing), axis=1)
    rates = np.stack((nothing, most, most, nothing, nothing, -least, -least), axis=1)
    jerks = np.stack((j, nothing, -j, nothing, -j, nothing, j), axis=1)
    lengths = times * (speeds[:, :-1] + times * (rates / 2 + times * jerks / 6))
    lengths[:, 3] = left_over(x, lengths.sum(axis=1))
    times[:, 3] = lengths[:, 3] / np.maximum(peak, _TINY)
    return joined(x, np.array((times, lengths)), speeds, (rates, jerks))
