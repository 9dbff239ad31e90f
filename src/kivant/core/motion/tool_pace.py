"""The pace of a tool whose axes go each by itself: how fast it is, and with which acceleration, by looking at instants.

At an instant the axes are at q with the speeds v and the accelerations a. Some time h before and after, they are at
q -+ h v + h^2 a / 2, and the tool where the geometry says: central differences give its speed and its acceleration.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import NamedTuple

import numpy as np

from kivant.core.machine.tool import Tool
from kivant.core.motion.ramp import Ramps
from kivant.core.motion.rates import path_outside_bands
from kivant.core.motion.segment import Reals

_INSIDE = np.linspace(1e-6, 1 - 1e-6, 9)  # of the time between two changes of acceleration
_BESIDE = 1e-4  # of the whole time
_BETWEEN = 1.01  # what may lie between the instants that are looked at
_TINY = 1e-300


class Courses(NamedTuple):
    """What an axis does: the times at which its acceleration changes, s, and what it does from each on.

    ``positions``, ``speeds``, ``rates`` and ``jerks`` are those at the beginning of each piece, in axis units.
    """

    times: Reals
    positions: Reals
    speeds: Reals
    rates: Reals
    jerks: Reals

    def at(self, times: Reals) -> tuple[Reals, Reals, Reals]:
        """Return position, speed and acceleration at times; before and after all pieces, those of the outermost."""
        piece = np.clip(np.searchsorted(self.times, times, "right") - 1, 0, len(self.times) - 1)
        t = times - self.times[piece]
        rate, jerk = self.rates[piece] + t * self.jerks[piece], self.jerks[piece]
        speed = self.speeds[piece] + t * (self.rates[piece] + t * jerk / 2)
        way = t * (self.speeds[piece] + t * (self.rates[piece] / 2 + t * jerk / 6))
        return self.positions[piece] + way, speed, rate


def paces(
    tool: Tool, before: Sequence[float], courses: Mapping[int, Courses], *, steady: bool = False
) -> tuple[Reals, Reals, Reals]:
    """Return instants, and the speeds and accelerations of a tool at them; other axes stay where they are `before`.

    Accelerations are those at `steady` speeds of the axes, if that is wanted: of the tool's turning alone.
    """
    breaks = np.unique(np.concatenate([own.times for own in courses.values()]))
    long = np.diff(breaks) > 1e-12 * max(float(breaks[-1]), _TINY)
    times = (breaks[:-1][long, None] + np.diff(breaks)[long, None] * _INSIDE).ravel()
    looked = zip(*(own.at(times) for own in courses.values()), strict=True)
    at, speeds, rates = (np.stack(columns, axis=-1) for columns in looked)
    _now, *found = tool_motion(
        tool, before, list(courses), (at, speeds, 0.0 * rates if steady else rates), _BESIDE * float(breaks[-1])
    )
    return times, found[0], found[1]


def tool_motion(
    tool: Tool, before: Sequence[float], axes: Sequence[int], moves: tuple[Reals, Reals, Reals], beside_s: Reals | float
) -> tuple[Reals, Reals, Reals]:
    """Return the places of a tool, shape (..., coordinates), and its speeds and accelerations there, shape (...).

    Parameters
    ----------
    tool : Tool
    before : sequence of float, axis units
        Where axes are that do not move.
    axes : sequence of int
        Those that do.
    moves : three arrays, shape (..., axes)
        Their positions, speeds and accelerations.
    beside_s : float, or array, shape (..., 1), s
        How far the instants are from those beside them.
    """
    at, speeds, rates = moves
    places = []
    for sign in (-1, 0, 1):
        there = at + sign * beside_s * speeds + abs(sign) * beside_s * beside_s / 2 * rates
        every: list[Reals | float] = list(before)
        for k, axis in enumerate(axes):
            every[axis] = there[..., k]
        places.append(np.stack(np.broadcast_arrays(*tool.place(every, np), there[..., 0])[:-1], axis=-1))
    earlier, now, later = places
    speed, rate = (later - earlier) / (2 * beside_s), (later - 2 * now + earlier) / beside_s**2
    return now, np.sqrt((speed**2).sum(axis=-1)), np.sqrt((rate**2).sum(axis=-1))


def slowness(tool: Tool, before: Sequence[float], axes: Sequence[int], ways: Reals, ramps: Ramps) -> float:
    """Return how many times as slow axes have to go, so that the tool keeps to its limits and they pass their bands.

    Parameters
    ----------
    tool : Tool
    before : sequence of float, axis units
        Where all axes are.
    axes : sequence of int
        Those that move, one for each of the ramps.
    ways : array, shape (axes,), axis units
        How far, with sign.
    ramps : Ramps
        From 0 to 1.
    """
    courses = {}
    for row, (axis, way) in enumerate(zip(axes, ways.tolist(), strict=True)):
        still = np.zeros(1)
        columns = (ramps.places[row] * way + before[axis], ramps.speeds[row, :-1] * way, ramps.accelerations[row] * way)
        speeds, rates, jerks = (np.append(own, still) for own in (*columns[1:], ramps.jerks[row] * way))
        courses[axis] = Courses(ramps.breaks_s[row], columns[0], speeds, rates, jerks)
    _times, speed, rate = paces(tool, before, courses)
    if not len(speed):
        return 1.0
    fast = _BETWEEN * float(speed.max()) / tool.bounds[0]
    times = max(1.0, fast, math.sqrt(_BETWEEN * float(rate.max()) / tool.bounds[1]))
    if times == 1.0:
        return times
    peaks = (np.abs(ways) * ramps.speeds.max(axis=1)).tolist()
    return 1 / path_outside_bands(1 / times, zip(peaks, map(tool.avoids, axes), strict=True))


def slowed(ramps: Ramps, times: Reals) -> Ramps:
    """Return ramps of which each takes so many times as long, shape (n,)."""
    powers = np.array((-1.0, 0.0, 1.0, 2.0, 3.0))  # of the time in what the table holds
    return Ramps(ramps.table / times ** powers[:, None, None])
