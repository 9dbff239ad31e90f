"""Lost motion: at each reversal of an axis the play of its travel is taken up first, by a movement of its own.

The tool stands still meanwhile, and so do the other axes; on a straight line of a tool that happens within its row.
What the motor goes beside what the tool is commanded is an offset of whole steps: none where the play is taken up in
the direction in which the axis was calibrated, the play in the other one.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from kivant.core.motion.exact import Exact
from kivant.core.motion.segment import NO_ROWS, Reals, Wholes
from kivant.core.travel.play import Play


class Taken(NamedTuple):
    """When one axis takes up its play: beginnings and ends, s, and the offsets before, between and after them."""

    begin_s: Reals
    end_s: Reals
    offsets: Wholes
    senses: Wholes

    def at(self, times_s: Reals) -> tuple[Reals, Wholes]:
        """Return when to look at the motor, and its offset then, to know where the tool is; same shape."""
        after = np.searchsorted(self.begin_s, times_s, "right")
        last = np.maximum(after - 1, 0)
        inside = (after > 0) & (times_s < self.end_s[last]) if len(self.begin_s) else np.zeros(times_s.shape, np.bool_)
        begin = self.begin_s[last] if len(self.begin_s) else times_s
        return np.where(inside, begin, times_s), self.offsets[after - inside]

    def sense_at(self, time_s: float) -> int:
        """Return in which direction the play is taken up at a time; while it is being taken up, as before."""
        after = int(np.searchsorted(self.end_s, time_s, "right"))
        return int(self.senses[after])


class Loose(NamedTuple):
    """The rows of a routine with those in which play is taken up, and what all axes do in them.

    Parameters
    ----------
    origin : array of int
        For each row, take-ups included, the row of the routine that it belongs to.
    own : array of int
        Where each row of the routine is among them; take-ups stand before the row that they belong to.
    named, positions, offsets
        For each axis the rows that name it, where it begins and is after each, exactly, and the motor's offset there.
    reversals : sequence of arrays of int
        For each axis its take-ups that are rows.
    """

    origin: Wholes
    own: Wholes
    named: list[Wholes]
    positions: list[Exact]
    offsets: list[Wholes]
    reversals: list[Wholes]


def with_take_ups(
    plays: Sequence[Play], senses: Sequence[int], named: Sequence[Wholes], positions: Sequence[Exact], heads: Wholes
) -> Loose:
    """Return the rows with all take-ups.

    Parameters
    ----------
    plays : sequence of Play
    senses : sequence of int
        In which direction each axis has taken up its play at the beginning.
    named, positions
        For each axis the rows that name it, and where it begins and is after each of them, in steps.
    heads : array of int, shape (rows,)
        Before which row the play of each row is taken up: where rows follow one another without a stop, the first.
    """
    rows = len(heads)
    if not any(play.steps for play in plays):  # the rows as they are
        nothing, beside = [NO_ROWS] * len(plays), [np.zeros(len(own) + 1, np.int64) for own in named]
        return Loose(np.arange(rows), np.arange(rows), [*named], [*positions], beside, nothing)
    turns: list[Wholes] = []
    inside: list[Wholes] = []
    ways: list[Wholes] = []
    for play, sense, own, position in zip(plays, senses, named, positions, strict=True):
        way = np.sign(position.numerators[1:] - position.numerators[:-1]).astype(np.int64)
        moved = way.nonzero()[0]
        # The direction in force after each position: that of the latest move.
        latest = np.maximum.accumulate(np.where(way != 0, np.arange(1, len(way) + 1), 0)) if len(way) else way
        forces = np.concatenate(([sense], way))[np.concatenate(([0], latest))]
        ways.append(forces)
        turned = moved[forces[moved] != way[moved]] if play.steps else moved[:0]
        # Within a row that goes on without a stop, what has no way takes up the play.
        within = (turned > 0) & (own[turned] == own[turned - 1]) & (way[turned - 1] == 0)
        turns.append(turned[~within])
        inside.append(turned[within])
    before = np.unique(np.concatenate([heads[own[turn]] for own, turn in zip(named, turns, strict=True)] or [NO_ROWS]))
    new = np.arange(rows) + np.searchsorted(before, np.arange(rows), "right")
    found = Loose(np.searchsorted(new, np.arange(rows + len(before))), new, [], [], [], [])
    for play, own, position, forces, turn, within in zip(plays, named, positions, ways, turns, inside, strict=True):
        offsets = play.steps * ((forces - play.first) // 2)
        offsets[within] = offsets[within + 1]
        added = new[heads[own[turn]]] - 1
        found.named.append(np.insert(new[own], turn, added))
        numbers = np.insert(position.numerators, turn + 1, position.numerators[turn])
        found.positions.append(Exact(numbers, position.denominator))
        found.offsets.append(np.insert(offsets, turn + 1, offsets[turn + 1]))
        found.reversals.append(added)
    return found


NOTHING_TAKEN = Taken(np.zeros(0), np.zeros(0), np.zeros(1, np.int64), np.ones(1, np.int64))
