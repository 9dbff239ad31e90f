"""Positions: what axes are commanded, in columns of exact numbers, one axis behind the other."""

from __future__ import annotations

import math
from array import array
from collections.abc import Sequence
from decimal import Decimal
from fractions import Fraction
from itertools import accumulate, chain
from typing import NamedTuple

import numpy as np

from kivant.core.motion.exact import MOST, Exact, Ratios, exact
from kivant.core.motion.segment import ONE, Wholes


class Positions(NamedTuple):
    """Where each axis begins, and is after each of the rows that name it, in steps.

    Parameters
    ----------
    bounds : sequence of int
        Where those of each axis begin, and where all end.
    axis : array of int
        Whose each is.
    rows : array of int
        After which row, ascending within an axis; -1 where it begins.
    steps : Exact
    """

    bounds: Sequence[int]
    axis: Wholes
    rows: Wholes
    steps: Exact


def positions_of(keys: Sequence[array[int]], values: Sequence[Sequence[Decimal | int]], ratios: Ratios) -> Positions:
    """Return what axes are commanded, told by the keys and values of each as `AxisTargets` has them.

    `ratios` are their steps for one axis unit.
    """
    counts = [*map(len, keys)]
    axis = np.arange(len(counts)).repeat(counts)
    every = np.frombuffer(b"".join(keys), np.int64)
    relative = every & ONE
    sums = np.count_nonzero(relative) > 0
    over, below = exact([*chain.from_iterable(values)], ratios, axis, len(every) if sums else 1)
    if sums:  # a relative target counts from the last absolute one, and all ways since
        ways = np.add.accumulate(over * relative)
        since = np.maximum.accumulate(np.arange(len(relative)) * (ONE - relative))
        over = ways + (over - ways)[since]
    return Positions([0, *accumulate(counts)], axis, every >> ONE, Exact(over, below))


def from_each_to_the_next(places: Sequence[Fraction]) -> Positions:
    """Return the positions of one axis that goes from place to place, in steps, one in each row."""
    below = math.lcm(*(place.denominator for place in places))
    over = [int(place * below) for place in places]
    kind = np.int64 if max(below, *map(abs, over)) < MOST else np.object_
    count = len(places)
    steps = Exact(np.array(over, kind), np.array([below] * count, kind))
    return Positions([0, count], np.zeros(count, np.int64), np.arange(-1, count - 1), steps)
