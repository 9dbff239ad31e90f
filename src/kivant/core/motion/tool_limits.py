"""Limits of the tool along moves: how fast a path may be gone so that the tool keeps to its speed and acceleration.

Where a path p(s) from 0 to 1 is gone at s', the tool has the speed |p'| s' and at most the acceleration
|p'| |s''| + |p''| s'^2 (the chain rule). Half of the acceleration is left to each of the two terms.
"""

from __future__ import annotations

import numpy as np

from kivant.core.machine.parts import Machine
from kivant.core.machine.tool import bounded_tool_of
from kivant.core.motion.segment import Reals, Wholes

_PLACES = 33  # along a path, at which it is looked at
_BETWEEN = 1.02  # what may lie between those
_ROWS = 4096  # paths that are looked at together
_TINY = 1e-300


def tool_limits(
    machine: Machine, moves: Wholes, axes: Wholes, starts: Reals, ways: Reals, ends: Reals
) -> tuple[Reals, Reals] | None:
    """Return the greatest speed and acceleration of paths by the tool's limits, shape (paths,); None where it has none.

    Parameters
    ----------
    machine : Machine
    moves, axes : arrays of int, shape (n,)
        To which path each share of an axis belongs (from 0), and which axis it is.
    starts, ways : arrays, shape (n,), axis units
        Where the axis begins, and how far it goes, with sign.
    ends : array, shape (paths, axes), axis units
        Where all axes are before each path.
    """
    tool = bounded_tool_of(machine)
    if tool is None:
        return None
    most, rates = tool.bounds
    count, own = len(ends), sorted(tool.axes.values())
    way = np.zeros((count, len(machine.axes)))
    begin = ends.copy()
    way[moves, axes], begin[moves, axes] = ways, starts
    speed, acceleration = np.full(count, np.inf), np.full(count, np.inf)
    moved = np.flatnonzero(np.abs(way[:, own]).max(axis=1) > 0)
    share = np.linspace(0.0, 1.0, _PLACES)
    for low in range(0, len(moved), _ROWS):
        rows = moved[low : low + _ROWS]
        at = [begin[rows, k, None] + way[rows, k, None] * share for k in range(len(machine.axes))]
        place = np.stack(np.broadcast_arrays(*tool.place(at, np)), axis=-1)
        rate = np.diff(place, axis=1) * (_PLACES - 1)
        first = np.sqrt((rate**2).sum(axis=-1)).max(axis=1) * _BETWEEN
        bend = np.sqrt((np.diff(rate, axis=1) ** 2).sum(axis=-1)).max(axis=1) * (_PLACES - 1) * _BETWEEN
        speed[rows] = most / np.maximum(first, _TINY)
        if rates < np.inf:
            straight = bend <= 1e-9 * first
            half = np.where(straight, 1.0, 0.5) * rates
            acceleration[rows] = half / np.maximum(first, _TINY)
            turns = np.sqrt(half / np.maximum(bend, _TINY))
            speed[rows] = np.minimum(speed[rows], np.where(straight, np.inf, turns))
    return speed, acceleration
