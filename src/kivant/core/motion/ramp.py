"""Ramps: how speed is built up and taken away over a distance, as piecewise polynomials of time; many at once.

Movements only, without axes or steps: distance and time in whatever units the caller uses. A shape of ramp is a
function with the parameters of `trapezoid`; `kivant.core.motion.shapes` is the table of them.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from kivant.core.motion.segment import NOUGHT, Reals

_LEAST_SPEED = np.array(1e-300)  # beside a length of 0, so that no time is 0/0


class Ramps(NamedTuple):
    """Distance over time for n movements of m pieces each, some of which may take no time.

    On a piece the distance is ``place + v u + a u²/2 + j u³/6``, u from its beginning. On every piece the speed only
    rises, only falls, or stays: a shape that peaks within a piece cuts it there.

    Parameters
    ----------
    table : array, shape (5, m + 1, n)
        What there is at each of the breaks, where pieces meet: the time, s, the distance, the speed, and from there on
        the acceleration and the jerk. The times begin with 0, or when the movement does, and end when it does; the last
        distance is exactly the whole one. Speeds are as designed: from rounded times they could only be guessed.
    """

    table: Reals

    @property
    def breaks_s(self) -> Reals:
        """Times at the breaks, s, shape (n, m + 1)."""
        return self.table[0, ...].T

    @property
    def places(self) -> Reals:
        """Distances at the breaks, shape (n, m + 1)."""
        return self.table[1, ...].T

    @property
    def speeds(self) -> Reals:
        """Speeds at the breaks, distance/s, shape (n, m + 1)."""
        return self.table[2, ...].T

    @property
    def accelerations(self) -> Reals:
        """Accelerations at the beginning of each piece, distance/s², shape (n, m)."""
        return self.table[3, :-1].T

    @property
    def jerks(self) -> Reals:
        """Jerks of each piece, distance/s³, shape (n, m)."""
        return self.table[4, :-1].T

    @property
    def durations_s(self) -> Reals:
        """How long each movement takes, s, shape (n,)."""
        return self.table[0, -1, :]


def joined(distance: Reals, pieces: Reals, speeds: Reals, rates: tuple[Reals, Reals | float]) -> Ramps:
    """Return ramps of pieces that follow one another.

    Parameters
    ----------
    distance : array, shape (n,)
    pieces : array, shape (2, n, m), s and distance
        Time and length of each, in time order; 0 where there is none.
    speeds : array, shape (n, m + 1), distance/s
        At the breaks.
    rates : two arrays, shape (n, m), distance/s² and distance/s³
        Acceleration at the beginning of each piece, and jerk; 0.0 for no jerk anywhere.
    """
    table = np.zeros((5, *speeds.T.shape))
    columns = table.transpose(0, 2, 1)
    columns[:2, :, 1:], columns[2], columns[3, :, :-1], columns[4, :, :-1] = pieces, speeds, *rates
    np.add.accumulate(table[:2, 1:], axis=1, out=table[:2, 1:])
    table[1, -1] = distance
    return Ramps(table)


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
    x, v, up, down = np.asarray(distance), speed, acceleration + acceleration, deceleration + deceleration
    first = last = np.minimum(start_speed, v)
    gain = loss = (v - first) * (v + first)
    most = down * x
    if end_speed is not None:
        last = np.minimum(end_speed, v)
        slower, faster = np.sqrt(last * last + most), np.sqrt(first * first + up * x)
        first, last = np.minimum(first, slower), np.minimum(last, faster)
        gain, loss = (v - first) * (v + first), (v - last) * (v + last)
        most = np.maximum(most + (last - first) * (last + first), 0.0)
    whole, part = gain / up, np.minimum(most / (up + down), x)  # the rise to the speed, and that of a triangle
    rise, fall = np.minimum(whole, part), np.minimum(loss / down, x - part)
    peak = np.sqrt(first * first + up * rise)
    if last is not first:
        peak = np.maximum(peak, last)
    np.copyto(peak, v, where=part >= whole)
    table = np.zeros((5, 4, len(x)))  # without jerk
    ways, speeds = table[1, 1:], table[2]
    ways[0], ways[1], ways[2] = rise, np.maximum(x - rise - fall, NOUGHT), fall
    speeds[0], speeds[1:3], speeds[3] = first, peak, last
    table[3, 0], table[3, 2] = acceleration, -deceleration
    table[0, 1:] = (ways + ways) / np.maximum(speeds[:-1] + speeds[1:], _LEAST_SPEED)
    table[:2, 1:] = np.add.accumulate(table[:2, 1:], axis=1)
    ways[2] = x
    return Ramps(table)
