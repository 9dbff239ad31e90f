"""Coordination: straight moves of any number of axes that start and end together.

The axes of a move share one ramp along the path from 0 to 1; each covers its own distance times that. A limit of an
axis is then a limit of the path, its limit divided by its distance, and the tightest one holds. As the
path's limits are independent of position, the fastest ramp within them is the fastest coordinated move.
"""

from __future__ import annotations

import numpy as np

from kivant.core.motion.ramp import Ramps
from kivant.core.motion.rates import Rates
from kivant.core.motion.segment import Reals, Wholes
from kivant.core.motion.shapes import SHAPES


def coordinate(
    moves: Wholes, distances: Reals, rates: Rates[Reals], speed_factors: Reals | float = 1.0, shape: str = "trapezoid"
) -> Ramps:
    """Return the fastest ramp from 0 to 1 along the straight path of each move.

    Parameters
    ----------
    moves : array of int, shape (n,)
        To which move each share of an axis belongs: from 0, none left out.
    distances : array, shape (n,)
        How far the axis goes in it, not 0; either sign.
    rates : Rates
        Limits of the axes, arrays of shape (n,) in the units of `distances`.
    speed_factors : array, shape (n,), or float; in (0, 1]
        Scale the wished speeds and nothing else; the pulse rate caps the speed after that.
    shape : str
        Name of the ramp's shape in `SHAPES`.
    """
    way, count = np.abs(distances), int(moves.max(initial=-1)) + 1

    def tightest(limits: Reals) -> Reals:
        found = np.full(count, np.inf)
        np.minimum.at(found, moves, limits / way)
        return found

    return SHAPES[shape](
        np.ones(count),
        speed=tightest(np.minimum(speed_factors * rates.speed, rates.pulse_rate)),
        acceleration=tightest(rates.acceleration),
        deceleration=tightest(rates.deceleration),
        start_speed=tightest(rates.start_speed),
    )
