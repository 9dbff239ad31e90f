"""Positions: what axes are commanded, in columns of exact numbers."""

from __future__ import annotations

from fractions import Fraction

import numpy as np

from kivant.core.motion.exact import Exact, exact
from kivant.core.motion.routine import AxisTargets
from kivant.core.motion.segment import Wholes


def positions_of(targets: AxisTargets, ratio: Fraction) -> tuple[Wholes, Exact]:
    """Return the rows that name an axis, ascending, and where it begins and is after each of them, in steps.

    `ratio` are its steps for one axis unit.
    """
    keys, values = np.array(targets.keys, np.int64), exact(targets.values, ratio)
    relative = np.zeros(len(keys) + 1, np.bool_)
    relative[1:] = keys & 1
    rows = keys >> 1
    if not np.count_nonzero(relative):
        return rows, values
    ways = Exact(np.where(relative, values.numerators, 0), values.denominator).sums().numerators
    # A relative target counts from the last absolute one, and all ways since.
    since = np.maximum.accumulate(np.where(relative, 0, np.arange(len(relative))))
    return rows, Exact(values.numerators[since] + ways - ways[since], values.denominator)
