"""The shapes of ramps along paths: which one each path takes by the limits of its axes, and how it is laid.

A path is as smooth as the smoothest of its axes wants it: with a jerk of any axis it is an S-curve, else with an axis
that follows its torque it does that, else it is a trapezoid; where nothing limits the acceleration, it has no ramp.
"""

from __future__ import annotations

from typing import NamedTuple, Protocol

import numpy as np
from numpy.typing import NDArray

from kivant.core.motion.ramp import Ramps, joined, trapezoid
from kivant.core.motion.s_curve import s_curve
from kivant.core.motion.segment import Reals, Wholes
from kivant.core.motion.torque_ramp import speed_grid, torque_ramp

_SPEEDS = 96  # at which what is available is looked at
_ONE = np.array([1.0])  # how long a path is
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


class Torques(Protocol):
    """What the torque of axes that follow it makes of paths."""

    def follows(self) -> NDArray[np.bool_]:
        """Return which paths have an axis that follows its torque."""

    def available(self, rows: Wholes, speeds: Reals) -> tuple[Reals, Reals]:
        """Return what paths can be accelerated and decelerated at speeds of them, shape (rows, m)."""


def ramps_along(limits: PathLimits, torques: Torques | None = None) -> Ramps:
    """Return the fastest ramps along paths; with `torques` where axes follow theirs."""
    shape = np.isinf(limits.acceleration).astype(np.int64)
    if torques:
        shape[torques.follows()] = 2
    shape[np.isfinite(limits.jerk)] = 3
    used = set(shape.tolist())
    if len(used) <= 1:
        return _LAYS[max(used, default=0)](limits, np.arange(len(shape)), torques)
    parts = [((shape == index).nonzero()[0], _LAYS[index]) for index in used]
    return one_table(len(shape), [(rows, lay(limits.pick(rows), rows, torques)) for rows, lay in parts])


def _trapezoid(limits: PathLimits, rows: Wholes, _torques: Torques | None) -> Ramps:
    return trapezoid(
        _ONE.repeat(len(rows)), speed=limits.speed, acceleration=limits.acceleration,
        deceleration=limits.deceleration, start_speed=limits.start_speed,
    )  # fmt: skip


def _s_curve(limits: PathLimits, rows: Wholes, torques: Torques | None) -> Ramps:
    """Lay S-curves; an axis that follows its torque keeps to what it has at every speed up to that of the path."""
    up, down = limits.acceleration, limits.deceleration
    if torques:
        has = torques.available(rows, speed_grid(np.zeros(len(rows)), limits.speed, _SPEEDS))
        up, down = (np.minimum(own, most.min(axis=1)) for own, most in zip((up, down), has, strict=True))
    return s_curve(
        np.ones(len(rows)), speed=limits.speed, acceleration=up, deceleration=down, start_speed=limits.start_speed,
        jerk=limits.jerk,
    )  # fmt: skip


def _no_ramp(limits: PathLimits, rows: Wholes, _torques: Torques | None) -> Ramps:
    one, speed = np.ones(len(rows)), limits.speed[:, None]
    still = np.zeros((len(rows), 1))
    return joined(one, np.array((1 / speed, one[:, None])), np.hstack((speed, speed)), (still, 0.0))


def _torque(limits: PathLimits, rows: Wholes, torques: Torques | None) -> Ramps:
    assert torques is not None
    found = []
    for low in range(0, len(rows), _ROWS):
        own = limits.pick(np.arange(low, min(low + _ROWS, len(rows))))
        first = np.minimum(own.start_speed, own.speed)

        def has(speeds: Reals, low: int = low, own: PathLimits = own) -> tuple[Reals, Reals]:
            up, down = torques.available(rows[low : low + _ROWS], speeds)
            return np.minimum(up, own.acceleration[:, None]), np.minimum(down, own.deceleration[:, None])

        found.append(torque_ramp(np.ones(len(first)), first, own.speed, has))
    return Ramps(np.concatenate([ramps.table for ramps in found], axis=2))


_LAYS = (_trapezoid, _no_ramp, _torque, _s_curve)


def one_table(count: int, parts: list[tuple[Wholes, Ramps]]) -> Ramps:
    """Return ramps of several shapes in one table: to those of fewer pieces, some that take no time are added."""
    table = np.empty((5, max(ramps.table.shape[1] for _rows, ramps in parts), count))
    for rows, ramps in parts:
        table[:, :, rows] = ramps.table[:, -1:]
        table[:, : ramps.table.shape[1], rows] = ramps.table
    return Ramps(table)
