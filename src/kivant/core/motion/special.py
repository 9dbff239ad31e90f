"""Special axes in coordinated moves: those that avoid bands of speed, and those that follow their torque."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from kivant.core.motion.rates import Bands
from kivant.core.motion.segment import Reals, Wholes
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
    avoid: Mapping[int, Bands]
    pulls: Mapping[int, tuple[Pull, Pull]]


class SpecialShares:
    """What special axes make of the paths of moves in which they have shares."""

    def __init__(self, special: Special, moves: Wholes, distances: Reals, count: int) -> None:
        """Take to which of so many moves each share belongs, and its distance; either sign."""
        self._moves, self._way, self._count, self._special = moves, np.abs(distances), count, special
        self._pulled: list[tuple[Wholes, Pull]] = []
        for index, pulls in special.pulls.items():
            for sign, pull in zip((1, -1), pulls, strict=True):
                self._pulled.append((((special.axis == index) & (np.sign(distances) == sign)).nonzero()[0], pull))

    def keep_to_pulled(self, speed: Reals) -> None:
        """Lower the speeds of the shares, to those at which something is left for acceleration."""
        for which, pull in self._pulled:
            speed[which] = np.minimum(speed[which], pull.speeds[-1])

    def keep_outside_bands(self, speed: Reals) -> None:
        """Lower the speeds of the paths, each to the edge of any band of an axis that it lies in."""
        bands = [(index, band) for index, own in self._special.avoid.items() for band in own]
        for _ in range(len(bands)):
            before = speed.copy()
            for index, (low, high) in bands:
                own = (self._special.axis == index).nonzero()[0]
                at, way = self._moves[own], self._way[own]
                inside = (speed[at] * way > low * (1 + 1e-12)) & (speed[at] * way < high)
                np.minimum.at(speed, at[inside], low / way[inside])
            if np.array_equal(before, speed):
                break

    def follows(self) -> NDArray[np.bool_]:
        """Return which moves have an axis that follows its torque."""
        found = np.zeros(self._count, np.bool_)
        for which, _pull in self._pulled:
            found[self._moves[which]] = True
        return found

    def available(self, rows: Wholes, speeds: Reals) -> tuple[Reals, Reals]:
        """Return what moves can be accelerated and decelerated at speeds along them, by the torque of their axes."""
        place = np.full(self._count, -1)
        place[rows] = np.arange(len(rows))
        up, down = np.full(speeds.shape, np.inf), np.full(speeds.shape, np.inf)
        for which, pull in self._pulled:
            own = which[place[self._moves[which]] >= 0]
            at, way = place[self._moves[own]], self._way[own][:, None]
            wanted = speeds[at] * way
            # An axis has one share in a move: no row is named twice.
            up[at] = np.minimum(up[at], np.interp(wanted, pull.speeds, pull.up) / way)
            down[at] = np.minimum(down[at], np.interp(wanted, pull.speeds, pull.down) / way)
        return up, down
