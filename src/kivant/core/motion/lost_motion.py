"""Lost motion: at each reversal of an axis the play of its travel is taken up first, by a movement of its own.

The tool stands still meanwhile, and so do the other axes; on a straight line of a tool that happens within its row.
What the motor goes beside what the tool is commanded is an offset of whole steps: none where the play is taken up in
the direction in which the axis was calibrated, the play in the other one.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import NamedTuple

import numpy as np

from kivant.core.motion.exact import Exact
from kivant.core.motion.positions import Positions
from kivant.core.motion.segment import Reals, Wholes
from kivant.core.travel.play import Play, Sense


class Taken(NamedTuple):
    """When one axis takes up its play: beginnings and ends, s, and the offsets before, between and after them."""

    begin_s: Reals
    end_s: Reals
    offsets: Wholes

    def at(self, times_s: Reals) -> tuple[Reals, Wholes]:
        """Return when to look at the motor, and its offset then, to know where the tool is; same shape."""
        after = np.searchsorted(self.begin_s, times_s, "right")
        last = np.maximum(after - 1, 0)
        inside = (after > 0) & (times_s < self.end_s[last]) if len(self.begin_s) else np.zeros(times_s.shape, np.bool_)
        begin = self.begin_s[last] if len(self.begin_s) else times_s
        return np.where(inside, begin, times_s), self.offsets[after - inside]


class Loose(NamedTuple):
    """The rows of a routine with those in which play is taken up, and what all axes do in them.

    Parameters
    ----------
    origin : array of int
        For each row, take-ups included, the row of the routine that it belongs to.
    own : array of int
        Where each row of the routine is among them; take-ups stand before the row that they belong to.
    positions : Positions
        Where each axis begins and is after each of the rows that name it.
    offsets : array of int or None
        What the motor stands beside each of those, in steps; None without any play.
    take_ups : array of int
        Which of them follow on a take-up that is a row.
    heads : array of int
        For each row, take-ups included, the first of those that follow one another without a stop.
    """

    origin: Wholes
    own: Wholes
    positions: Positions
    offsets: Wholes | None
    take_ups: Wholes
    heads: Wholes


def with_take_ups(plays: Sequence[Play], senses: Sequence[Sense], positions: Positions, heads: Wholes) -> Loose:
    """Return the rows with all take-ups.

    Parameters
    ----------
    plays : sequence of Play
    senses : sequence of Sense
        Where each axis is in its play at the beginning.
    positions : Positions
        Where each axis begins, and is after each of the rows that name it.
    heads : array of int, shape (rows,)
        Before which row the play of each row is taken up: where rows follow one another without a stop, the first.
    """
    rows = np.arange(len(heads))
    bounds, (_, axis, named, steps) = np.array(positions.bounds), positions
    own_play, first = (np.array(column)[axis] for column in zip(*((p.steps, p.first) for p in plays), strict=True))
    way = np.zeros(len(axis), np.int64)
    way[1:] = np.sign(steps.over[1:] - steps.over[:-1])
    begins = [play.offset(sense) for play, sense in zip(plays, senses, strict=True)]
    for play, offset, (low, high) in zip(plays, begins, pairwise(positions.bounds), strict=True):
        way[low] = _in_force(play, offset, way[low + 1 : high])
    # The direction in force after each position: that of the latest way.
    since = np.maximum.accumulate(np.where(way != 0, np.arange(len(way)), 0))
    forces = way[since]
    turned = (own_play[1:] > 0) & (named[1:] >= 0) & (way[1:] != 0) & (forces[:-1] != way[1:])
    at = turned.nonzero()[0] + 1
    # Within a row that goes on without a stop, what has no way takes up the play.
    within = (named[at] == named[at - 1]) & (way[at - 1] == 0)
    turn, inside = at[~within], at[within]
    before = np.unique(heads[named[turn]])
    new = rows + before.searchsorted(rows, "right")
    offsets = np.where(since == bounds[axis], np.array(begins)[axis], own_play * ((forces - first) // 2))
    offsets[inside - 1] = offsets[inside]
    every = Positions(
        (bounds + turn.searchsorted(bounds)).tolist(),
        np.insert(axis, turn, axis[turn]),
        np.insert(np.append(new, -1)[named], turn, new[heads[named[turn]]] - 1),  # -1 stays what it is
        Exact(np.insert(steps.over, turn, steps.over[turn - 1]), np.insert(steps.below, turn, steps.below[turn])),
    )
    firsts = np.arange(len(rows) + len(before))
    origin = new.searchsorted(firsts)
    firsts[new] = new[heads]
    return Loose(origin, new, every, np.insert(offsets, turn, offsets[turn]), turn + np.arange(len(turn)), firsts)


def _in_force(play: Play, offset: int, ways: Wholes) -> int:
    """Return in which direction play is taken up at an offset; between the two, that against the first of some ways."""
    for sense in (play.first, -play.first):
        if offset == play.offset(sense):
            return sense
    gone = ways[ways != 0]
    return -int(gone[0]) if len(gone) else play.first


NOTHING_TAKEN = Taken(np.zeros(0), np.zeros(0), np.zeros(1, np.int64))
