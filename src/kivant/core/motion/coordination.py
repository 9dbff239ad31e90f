"""Coordination: straight moves of any number of axes that start and end together.

The axes of a move share one ramp along the path from 0 to 1; each covers its own distance times that. A limit of an
axis is then a limit of the path, its limit divided by its distance, and the tightest one holds. As the
path's limits are independent of position, the fastest ramp within them is the fastest coordinated move.
"""

from __future__ import annotations

import numpy as np

from kivant.core.motion.ramp import Ramps
from kivant.core.motion.segment import Reals, Wholes
from kivant.core.motion.shapes import PathLimits, ramps_along
from kivant.core.motion.special import Special, SpecialShares


def coordinate(
    count: int, moves: Wholes, distances: Reals, rates: Reals, speed_factors: Reals | float | None = None,
    special: Special | None = None, tool: tuple[Reals, Reals] | None = None,
) -> Ramps:  # fmt: skip
    """Return the fastest ramp from 0 to 1 along the straight path of each move.

    Parameters
    ----------
    count : int
        How many moves there are, each with a share at least.
    moves : array of int, shape (n,)
        To which of them each share of an axis belongs, from 0.
    distances : array, shape (n,)
        How far the axis goes in it, not 0; either sign.
    rates : array, shape (6, n)
        Limits of the axes as `rates_table` has them, in the units of `distances`.
    speed_factors : array, shape (n,), or float, optional; in (0, 1]
        Scale the wished speeds and nothing else; the pulse rate caps the speed after that.
    special : Special, optional
        Bands of speed to avoid, and axes that follow their torque.
    tool : two arrays, shape (moves,), optional
        Speed and acceleration that the paths may have so that the tool keeps to its own limits.
    """
    way, own = np.abs(distances), rates[: len(PathLimits._fields)].copy()  # in the same order
    own[0] = np.minimum(rates[0] if speed_factors is None else rates[0] * speed_factors, rates[-1])
    shares = SpecialShares(special, moves, distances, count) if special else None
    if shares:
        shares.keep_to_pulled(own[0])
    order = moves.argsort(kind="stable")
    table = (own / way).take(order, axis=1)
    if len(order) > count:  # the tightest limit of all shares of a path is its own
        table = np.minimum.reduceat(table, moves.take(order).searchsorted(np.arange(count)), axis=1)
    if tool:
        table[:4] = np.minimum(table[:4], (tool[0], tool[1], tool[1], tool[0]))
    if shares:
        shares.keep_outside_bands(table[0])
    return ramps_along(PathLimits._make(table), shares)
