"""Coordination: straight moves of any number of axes that start and end together.

The axes of a move share one ramp along the path from 0 to 1; each covers its own distance times that. A limit of an
axis is then a limit of the path, its limit divided by its distance, and the tightest one holds. As the
path's limits are independent of position, the fastest ramp within them is the fastest coordinated move.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import NamedTuple

import numpy as np

from kivant.core.motion.ramp import Ramps
from kivant.core.motion.rates import Rates
from kivant.core.motion.segment import Reals, Wholes
from kivant.core.motion.shapes import PathLimits, ramps_along
from kivant.core.motion.torque_ramp import Pull


class Special(NamedTuple):
    """What some axes have besides their rates.

    Parameters
    ----------
    axis : array of int, shape (n,)
        Whose each share of a move is.
    avoid : mapping of axis to bands
        Speeds in steps/s, (low, high), that it is never to stay in.
    pulls : mapping of axis to a pair of Pull
        What an axis that follows its torque has forwards and backwards.
    """

    axis: Wholes
    avoid: Mapping[int, Sequence[tuple[float, float]]]
    pulls: Mapping[int, tuple[Pull, Pull]]


def rates_table(rates: Sequence[Rates]) -> Reals:
    """Return what axes can do as a table, of which the rows are those of `Rates`; shape (6, axes)."""
    return np.array(rates, np.float64).reshape(-1, len(Rates._fields)).T


def coordinate(
    count: int, moves: Wholes, distances: Reals, rates: Reals, speed_factors: Reals | float = 1.0,
    special: Special | None = None, tool: tuple[Reals, Reals] | None = None,
) -> Ramps:  # fmt: skip
    """Return the fastest ramp from 0 to 1 along the straight path of each move.

    Parameters
    ----------
    count : int
        How many moves there are.
    moves : array of int, shape (n,)
        To which of them each share of an axis belongs, from 0.
    distances : array, shape (n,)
        How far the axis goes in it, not 0; either sign.
    rates : array, shape (6, n)
        Limits of the axes as `rates_table` has them, in the units of `distances`.
    speed_factors : array, shape (n,), or float; in (0, 1]
        Scale the wished speeds and nothing else; the pulse rate caps the speed after that.
    special : Special, optional
        Bands of speed to avoid, and axes that follow their torque.
    tool : two arrays, shape (moves,), optional
        Speed and acceleration that the paths may have so that the tool keeps to its own limits.
    """
    shares = _Shares(moves, distances, count, special)
    own = rates[: len(PathLimits._fields)].copy()  # in the same order
    own[0] = shares.pulled_speed(np.minimum(speed_factors * rates[0], rates[-1]))
    limits = shares.tightest(own, tool)
    shares.keep_outside_bands(limits.speed)
    return ramps_along(limits, shares.follow(), shares.available)


class _Shares:
    """What each axis has to do in each move, and what it can."""

    def __init__(self, moves: Wholes, distances: Reals, count: int, special: Special | None) -> None:
        self.moves, self.way, self.count = moves, np.abs(distances), count
        self.avoid = special.avoid if special else {}
        self.pulled: list[tuple[Wholes, Pull]] = []
        self.axis = special.axis if special else moves
        for index, pulls in (special.pulls if special else {}).items():
            for sign, pull in zip((1, -1), pulls, strict=True):
                which = ((self.axis == index) & (np.sign(distances) == sign)).nonzero()[0]
                self.pulled.append((which, pull))

    def tightest(self, limits: Reals, tool: tuple[Reals, Reals] | None) -> PathLimits:
        """Return for each path the tightest of limits of its axes, shape (limits, n), and of those of the tool."""
        found = np.empty((len(limits), self.count))
        found.fill(np.inf)
        if tool is not None:
            found[:4] = tool[0], tool[1], tool[1], tool[0]
        at = np.arange(found.size).reshape(found.shape).take(self.moves, axis=1)
        np.minimum.at(found.reshape(-1), at.reshape(-1), (limits / self.way).reshape(-1))
        return PathLimits._make(found)

    def pulled_speed(self, speed: Reals) -> Reals:
        """Return the speeds of the shares, at most those at which something is left for acceleration."""
        for which, pull in self.pulled:
            speed[which] = np.minimum(speed[which], pull.speeds[-1])
        return speed

    def keep_outside_bands(self, speed: Reals) -> None:
        """Lower the speeds of the paths, each to the edge of any band of an axis that it lies in."""
        bands = [(index, band) for index, own in self.avoid.items() for band in own]
        for _ in range(len(bands)):
            before = speed.copy()
            for index, (low, high) in bands:
                own = (self.axis == index).nonzero()[0]
                at, way = self.moves[own], self.way[own]
                inside = (speed[at] * way > low * (1 + 1e-12)) & (speed[at] * way < high)
                np.minimum.at(speed, at[inside], low / way[inside])
            if np.array_equal(before, speed):
                break

    def follow(self) -> np.ndarray:
        """Return which moves have an axis that follows its torque."""
        found = np.zeros(self.count, np.bool_)
        for which, _pull in self.pulled:
            found[self.moves[which]] = True
        return found

    def available(self, rows: Wholes, speeds: Reals) -> tuple[Reals, Reals]:
        """Return what moves can be accelerated and decelerated at speeds along them, by the torque of their axes."""
        place = np.full(self.count, -1)
        place[rows] = np.arange(len(rows))
        up, down = np.full(speeds.shape, np.inf), np.full(speeds.shape, np.inf)
        for which, pull in self.pulled:
            own = which[place[self.moves[which]] >= 0]
            at, way = place[self.moves[own]], self.way[own][:, None]
            wanted = speeds[at] * way
            np.minimum.at(up, at, np.interp(wanted, pull.speeds, pull.up) / way)
            np.minimum.at(down, at, np.interp(wanted, pull.speeds, pull.down) / way)
        return up, down
