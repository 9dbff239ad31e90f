"""Ramps: how speed is built up and taken away over a distance, as piecewise polynomials of time; many at once.

Movements only, without axes or steps: distance and time in whatever units the caller uses. A shape of ramp is a
function with the parameters of `trapezoid`; `kivant.core.motion.shapes` is the table of them.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from kivant.core.motion.segment import Reals

_LEAST_SPEED = 1e-300  # beside a length of 0, so that no time is 0/0


class Ramps(NamedTuple):
    """Distance over time for n movements of m pieces each, some of which may take no time.

    On a piece the distance is ``place + v u + a u²/2 + j u³/6``, u from its beginning. On every piece the speed only
    rises, only falls, or stays: a shape that peaks within a piece cuts it there.

    Parameters
    ----------
    breaks_s : array, shape (n, m + 1), s
        Where the pieces meet; the first is 0, the last the duration.
    places : array, shape (n, m + 1)
        Distances at the breaks; where the time is up, the whole distance exactly.
    speeds : array, shape (n, m + 1), distance/s
        Speeds at the breaks, as designed: from rounded times they could only be guessed.
    accelerations : array, shape (n, m), distance/s²
        At the beginning of each piece.
    jerks : array, shape (n, m), distance/s³
    """

    breaks_s: Reals
    places: Reals
    speeds: Reals
    accelerations: Reals
    jerks: Reals

    @property
    def durations_s(self) -> Reals:
        """How long each movement takes, s, shape (n,)."""
        return self.breaks_s[:, -1]

    @property
    def braking_s(self) -> Reals:
        """When the last braking of each begins, s, shape (n,); its end, where it does not brake at its end."""
        breaks, speeds = self.breaks_s, self.speeds
        goes_on = (speeds[:, 1:] >= speeds[:, :-1]) & (breaks[:, 1:] > breaks[:, :-1])
        ends: Reals = np.where(goes_on, breaks[:, 1:], breaks[:, :1]).max(axis=1)
        return ends


def in_columns(count: int, *columns: Reals | float) -> Reals:
    """Return a column for each, shape (count, columns)."""
    found = np.empty((count, len(columns)))
    for k, column in enumerate(columns):
        found[:, k] = column
    return found


def joined(distance: Reals, times: Reals, lengths: Reals, speeds: Reals, rates: tuple[Reals, Reals | None]) -> Ramps:
    """Return ramps of pieces that follow one another.

    Parameters
    ----------
    distance : array, shape (n,)
    times, lengths : array, shape (n, m), s and distance
        Of each piece, in time order; 0 where there is none.
    speeds : array, shape (n, m + 1), distance/s
        At the breaks.
    rates : two arrays, shape (n, m), distance/s² and distance/s³
        Acceleration at the beginning of each piece, and jerk; None for no jerk anywhere.
    """
    breaks, places = np.zeros(speeds.shape), np.zeros(speeds.shape)
    np.add.accumulate(times, axis=1, out=breaks[:, 1:])
    np.add.accumulate(lengths, axis=1, out=places[:, 1:])
    places = np.where(breaks == breaks[:, -1:], distance[:, None], places)
    accelerations, jerks = rates
    return Ramps(breaks, places, speeds, accelerations, np.zeros(lengths.shape) if jerks is None else jerks)


def left_over(distance: Reals, used: Reals) -> Reals:
    """Return what ramps leave of a distance for the cruise, where it is more than rounding; arrays of one shape."""
    left = distance - used
    return np.where(left > 1e-13 * distance, left, 0.0)


def trapezoid(
    distance: Reals,
    *,
    speed: Reals | float,
    acceleration: Reals | float,
    deceleration: Reals | float,
    start_speed: Reals | float = 0.0,
    end_speed: Reals | float | None = None,
) -> Ramps:
    """Return the fastest movements over distances within the limits: acceleration, cruise, deceleration.

    Both speeds at the ends are upper limits: where one could not be reached from, or braked to, the other
    within the distance, it is lowered. Too short a distance for `speed` gives a triangle.

    Parameters
    ----------
    distance : array, shape (n,), > 0
    speed : array, shape (n,), or float; distance/s, > 0
    acceleration, deceleration : the same, distance/s², > 0
    start_speed, end_speed : the same, distance/s, >= 0
        Speeds that may be jumped to at the beginning and from at the end; the end's is the start's if None.

    References
    ----------
    Uniformly accelerated motion, v² = v0² + 2 a x, from any textbook of mechanics. Times are found as
    t = 2 x / (v0 + v), which has no difference of nearly equal speeds in it.
    """
    x, v, up, down = np.asarray(distance), speed, acceleration, deceleration
    first = last = np.minimum(start_speed, v)
    if end_speed is not None:
        last = np.minimum(end_speed, v)
        slower = np.minimum(first, np.sqrt(last * last + 2 * down * x))
        faster = np.minimum(last, np.sqrt(first * first + 2 * up * x))
        too_fast = first > last
        first, last = np.where(too_fast, slower, first), np.where(too_fast, last, faster)
    rates, first2, last2, twice = up + down, first * first, last * last, 2 * down * x
    peak_squared = (up * twice + down * first2 + up * last2) / rates
    triangle = peak_squared <= v * v
    peak = np.where(triangle, np.maximum(np.sqrt(peak_squared), np.maximum(first, last)), v)
    rise = np.minimum(np.maximum((twice + last2 - first2) / (2 * rates), 0.0), x)
    rise = np.where(triangle, rise, (peak - first) * (peak + first) / (2 * up))
    fall = np.where(triangle, x - rise, (peak - last) * (peak + last) / (2 * down))
    cruise = np.where(triangle, 0.0, np.maximum(x - rise - fall, 0.0))
    count = len(x)
    lengths, speeds = in_columns(count, rise, cruise, fall), in_columns(count, first, peak, peak, last)
    times = 2 * lengths / np.maximum(speeds[:, :-1] + speeds[:, 1:], _LEAST_SPEED)
    return joined(x, times, lengths, speeds, (in_columns(count, up, 0.0, -down), None))
