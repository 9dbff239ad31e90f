"""Ramps whose acceleration is limited in its change: up to seven pieces of constant jerk."""

from __future__ import annotations

import numpy as np

from kivant.core.motion.peak import peak_speed
from kivant.core.motion.ramp import Ramps, joined, left_over
from kivant.core.motion.segment import Reals

_TINY = 1e-300


def _rise(first: Reals, last: Reals, rate: Reals, jerk: Reals) -> tuple[Reals, Reals, Reals]:
    """Return the greatest acceleration from one speed to a higher one, and how long its change and it itself last."""
    gain = np.maximum(last - first, 0.0)
    most = np.minimum(rate, np.sqrt(jerk * gain))
    change = most / jerk
    return most, change, np.where(most < rate, 0.0, np.maximum(gain / np.maximum(most, _TINY) - change, 0.0))


def _way(first: Reals, last: Reals, rate: Reals, jerk: Reals) -> tuple[Reals, Reals]:
    """Return the distance from one speed to a higher one: the mean of both, for as long as it takes.

    With it comes by how much it grows with the higher one.
    """
    gain, mean = np.maximum(last - first, 0.0), (first + last) / 2
    most = np.maximum(np.minimum(rate, np.sqrt(jerk * gain)), _TINY)
    seconds = gain / most + most / jerk
    return mean * seconds, seconds / 2 + mean / most


def way_between(low: float, high: float, rate: float, jerk: float) -> float:
    """Return the distance of a change from one speed to a higher one, or back, with an acceleration and a jerk."""
    one = np.ones(1)
    return float(_way(low * one, high * one, rate * one, jerk * one)[0][0])


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
    (seven pieces of constant jerk).
    """
    x = np.asarray(distance, np.float64)
    v, up, down, j = np.broadcast_arrays(speed, acceleration, deceleration, jerk, x)[:4]
    first = np.minimum(start_speed, v)
    last = np.minimum(start_speed if end_speed is None else end_speed, v)
    low = np.minimum(first, last)
    # With the jerk alone, a gain of speed g from v takes (2 v + g) sqrt(g / j): more is not gained over the distance.
    gain = np.cbrt(x * x * j)
    most = low + gain * np.square(gain / np.maximum(2 * low, gain))
    first = peak_speed(low, np.minimum(first, most), x, lambda speed: _way(low, speed, down, j))
    last = peak_speed(low, np.minimum(last, most), x, lambda speed: _way(low, speed, up, j))
    begin = np.maximum(first, last)
    # Nor is more with the accelerations alone.
    most = np.minimum(most, np.sqrt(begin * begin + 2 * x * np.minimum(up, down)))

    def way(peak: Reals) -> tuple[Reals, Reals]:
        (rise, faster), (fall, slower) = _way(first, peak, up, j), _way(last, peak, down, j)
        return rise + fall, faster + slower

    peak = peak_speed(begin, np.maximum(np.minimum(v, most), begin), x, way)
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
