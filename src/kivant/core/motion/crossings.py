"""Crossings: where in their moves axes cross from one whole step to the next.

Step k of a movement happens when the ideal position crosses k - 1/2 steps.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from kivant.core.motion.exact import Exact
from kivant.core.motion.segment import ONE, Reals, Wholes

_HALF = np.array(0.5)


class Crossings(NamedTuple):
    """The steps in the shares that axes have in moves, one axis behind the other and each in time order.

    Parameters
    ----------
    sign : array
        Of the distance from start to end.
    to_first, rest : array
        Distance to where the first step is crossed, and from the last one to the end; from 0 to 1 step.
    steps : array
        How many steps each share has; whole, but perhaps too many for 64 bits.
    """

    sign: Reals
    to_first: Reals
    rest: Reals
    steps: Reals

    @property
    def upto(self) -> Reals:
        """How many steps there are up to the end of each share."""
        return np.add.accumulate(self.steps)


def crossings(places: Exact, offsets: Wholes | None, before: Wholes, ways: Reals) -> Crossings:
    """Return the steps in ways from some places, each to the place behind it, in steps.

    Parameters
    ----------
    places : Exact
    offsets : array of int or None
        What the motor stands beside each of them.
    before : array of int
        With which of the places each way begins.
    ways : array
        None is 0.
    """
    near, beyond = places.nearest()
    if offsets is not None:
        near += offsets
    after, sign = before + ONE, np.sign(ways)
    steps = np.abs(near[after] - near[before]).astype(np.float64)
    return Crossings(sign, _HALF - sign * beyond[before], _HALF + sign * beyond[after], steps)
