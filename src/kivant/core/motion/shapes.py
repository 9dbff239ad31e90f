"""The shapes of ramps along paths: which one each path takes by the limits of its axes, and how it is laid.

A path is as smooth as the smoothest of its axes wants it: with a jerk of any axis it is an S-curve, else with an axis
that follows its torque it does that, else it is a trapezoid; where nothing limits the acceleration, it has no ramp.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from kivant.core.motion.ramp import Ramps, joined, trapezoid
from kivant.core.motion.s_curve import s_curve
from kivant.core.motion.segment import Reals, Wholes
from kivant.core.motion.torque_ramp import speed_grid, torque_ramp

_SPEEDS = 96  # at which what is available is looked at
_ROWS = 512  # paths that follow their torque and are laid at a time


class PathLimits(NamedTuple):
    """Limits of n paths from 0 to 1, arrays of shape (n,); infinite where there is none."""

    speed: Reals
    acceleration: Reals
    deceleration: Reals
    start_speed: Reals
    jerk: Reals

    def pick(self, rows: Wholes) -> PathLimits:
        """Return the limits of some of the paths."""
        return PathLimits._make(column[rows] for column in self)


Available = Callable[[Wholes, Reals], tuple[Reals, Reals]]
"""Takes rows of paths and speeds of them, shape (rows, m), and returns what they can be accelerated and decelerated."""


def ramps_along(limits: PathLimits, follows: NDArray[np.bool_], available: Available) -> Ramps:
    """Return the fastest ramps along paths; `follows` says which have an axis that follows its torque."""
    shape = np.isinf(limits.acceleration).astype(np.int64)
    shape[follows] = 2
    shape[limits.jerk < np.inf] = 3
    lays = (_trapezoid, _no_ramp, _torque, _s_curve)
    used = set(shape.tolist())
    if len(used) <= 1:
        return lays[max(used, default=0)](limits, np.arange(len(shape)), available)
    parts = [((shape == index).nonzero()[0], lays[index]) for index in used]
    return one_table(len(shape), [(rows, lay(limits.pick(rows), rows, available)) for rows, lay in parts])


def _trapezoid(limits: PathLimits, rows: Wholes, _available: Available) -> Ramps:
    return trapezoid(
        np.ones(len(rows)), speed=limits.speed, acceleration=limits.acceleration, deceleration=limits.deceleration,
        start_speed=limits.start_speed,
    )  # fmt: skip


def _s_curve(limits: PathLimits, rows: Wholes, available: Available) -> Ramps:
    """Lay S-curves; an axis that follows its torque keeps to what it has at every speed up to that of the path."""
    up, down = available(rows, speed_grid(np.zeros(len(rows)), limits.speed, _SPEEDS))
    return s_curve(
        np.ones(len(rows)), speed=limits.speed, start_speed=limits.start_speed, jerk=limits.jerk,
        acceleration=np.minimum(limits.acceleration, up.min(axis=1)),
        deceleration=np.minimum(limits.deceleration, down.min(axis=1)),
    )  # fmt: skip


def _no_ramp(limits: PathLimits, rows: Wholes, _available: Available) -> Ramps:
    one, speed = np.ones(len(rows)), limits.speed[:, None]
    still = np.zeros((len(rows), 1))
    return joined(one, np.array((1 / speed, one[:, None])), np.hstack((speed, speed)), (still, 0.0))


def _torque(limits: PathLimits, rows: Wholes, available: Available) -> Ramps:
    found = []
    for low in range(0, len(rows), _ROWS):
        own = limits.pick(np.arange(low, min(low + _ROWS, len(rows))))
        first = np.minimum(own.start_speed, own.speed)

        def has(speeds: Reals, low: int = low, own: PathLimits = own) -> tuple[Reals, Reals]:
            up, down = available(rows[low : low + _ROWS], speeds)
            return np.minimum(up, own.acceleration[:, None]), np.minimum(down, own.deceleration[:, None])

        found.append(torque_ramp(np.ones(len(first)), first, own.speed, has))
    return Ramps(np.concatenate([ramps.table for ramps in found], axis=1))


def one_table(count: int, parts: list[tuple[Wholes, Ramps]]) -> Ramps:
    """Return ramps of several shapes in one table: to those of fewer pieces, some that take no time are added."""
    table = np.empty((5, count, max(ramps.table.shape[2] for _rows, ramps in parts)))
    for rows, ramps in parts:
        table[:, rows] = ramps.table[:, :, -1:]
        table[:, rows, : ramps.table.shape[2]] = ramps.table
    return Ramps(table)
