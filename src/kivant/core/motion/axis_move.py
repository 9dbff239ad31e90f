"""Moves of axes, cut into segments that can each be solved for the instants of steps; many at once.

Step k of a movement happens when the ideal position crosses k - 1/2 steps.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from kivant.core.motion.exact import Exact
from kivant.core.motion.ramp import Ramps
from kivant.core.motion.segment import NO_ROWS, STANDSTILL, Reals, SegmentColumns, Wholes


class AxisMoves(NamedTuple):
    """The shares that axes have in moves, one axis behind the other and each in time order; distances in steps.

    A position is told as the whole step nearest to it and what it lies beyond that, from -1/2 to 1/2.

    Parameters
    ----------
    axis : array of int
        Whose share it is.
    move : array of int
        Which move it is a share of: its row in the ramps.
    way : array
        Distance from start to end, not 0; either sign.
    start, end : array of int
        The steps next to both ends.
    beyond_start, beyond_end : array
        Where the ends lie beside those.
    """

    axis: Wholes
    move: Wholes
    way: Reals
    start: Wholes
    end: Wholes
    beyond_start: Reals
    beyond_end: Reals

    @property
    def steps(self) -> Wholes:
        """How many steps each share has."""
        steps: Wholes = np.abs(self.end - self.start)
        return steps


class Cut(NamedTuple):
    """Segments in the order of the moves, of which each belongs to one, and how many steps each has.

    Times count from the beginning of the move, steps from the first of all; ``last`` are those with which moves end.
    """

    segments: SegmentColumns
    owner: Wholes
    counts: Wholes
    last: NDArray[np.bool_]


def axis_moves(
    positions: Sequence[Exact], offsets: Sequence[Wholes], named: Sequence[Wholes], rows: int,
    apart: Wholes = NO_ROWS, spinning: Wholes = NO_ROWS,
) -> tuple[AxisMoves, Wholes]:  # fmt: skip
    """Return the shares of axes in moves, and the row of each move.

    Those of one row are one move, unless axes go apart in it: then each share is a move of its own, behind all others.
    Those of spins are the last, in the order of axes and of time.

    Parameters
    ----------
    positions : sequence of Exact
        For each axis where it begins and after each of the rows that name it, in steps.
    offsets : sequence of arrays of int
        What the motor stands beside each of them.
    named : sequence of arrays of int
        The rows that name each axis, of so many `rows`.
    apart, spinning : arrays of int, optional
        In which of them axes go apart, and in which they spin.
    """
    shares, at = [], []
    for index, (position, offset, own) in enumerate(zip(positions, offsets, named, strict=True)):
        ways, aside = position.numerators[1:] - position.numerators[:-1], offset[1:] - offset[:-1]
        moved = ((ways != 0) | (aside != 0)).nonzero()[0]
        at.append(own[moved])
        near, beyond = position.nearest()
        near = near + offset
        way = np.asarray(ways[moved] / position.denominator, np.float64) + aside[moved]
        axis = np.full(len(moved), index)
        shares.append((axis, axis, way, near[moved], near[moved + 1], beyond[moved], beyond[moved + 1]))
    if not shares:
        reals = np.zeros(0)
        return AxisMoves(NO_ROWS, NO_ROWS, reals, NO_ROWS, NO_ROWS, reals, reals), NO_ROWS
    every = np.concatenate(at)
    used = np.zeros(rows, np.int64)
    used[every] = 1
    used[apart], used[spinning] = 0, 0
    together = used.nonzero()[0]
    columns = AxisMoves._make(map(np.concatenate, zip(*shares, strict=True)))
    columns = columns._replace(move=(np.add.accumulate(used) - 1)[every])
    if not len(apart) + len(spinning):
        return columns, together
    alone = np.concatenate([np.isin(every, own).nonzero()[0] for own in (apart, spinning)])
    columns.move[alone] = len(together) + np.arange(len(alone))
    return columns, np.concatenate((together, every[alone]))


def cut(moves: AxisMoves, ramps: Ramps) -> Cut:
    """Return the segments of moves along their ramps from 0 to 1; pieces that take no time have none."""
    takes_time = ramps.breaks_s[:, 1:] > ramps.breaks_s[:, :-1]
    owner, piece = takes_time[moves.move].nonzero()
    pieces = takes_time.shape[1]
    row = moves.move.take(owner)
    at, left = row * pieces + piece, row * (pieces + 1) + piece  # in tables of pieces, and of breaks
    right = left + 1
    begin, end = ramps.breaks_s.take(left), ramps.breaks_s.take(right)
    sign = np.sign(moves.way).astype(np.int8)
    # Step j (from 1) is crossed at the distance j - lead, and the last one `rest` before the end.
    lead, rest = (0.5 + sign * moves.beyond_start).take(owner), (0.5 + sign * moves.beyond_end).take(owner)
    span, count = np.abs(moves.way).take(owner), moves.steps.take(owner)
    near_place, far_place = ramps.places.take(left) * span, ramps.places.take(right) * span

    last = end == ramps.breaks_s[:, -1].take(row)
    upto = np.minimum(np.maximum(np.floor(far_place + lead), 0.0), count).astype(np.int64)
    upto = np.where(last, count, upto)
    taken = np.zeros(len(owner), np.int64)
    np.multiply(upto[:-1], owner[1:] == owner[:-1], out=taken[1:])
    counts = upto - taken
    first = np.add.accumulate(counts) - counts

    slow, fast = ramps.speeds.take(left) * span, ramps.speeds.take(right) * span
    jerk, rate = ramps.jerks.take(at) * span, ramps.accelerations.take(at) * span
    falls, own_sign = slow > fast, sign.take(owner)
    near = np.where(falls, far_place - (upto - lead), taken + 1 - lead - near_place)
    ends_falling = last & falls
    start, target = (moves.start + moves.beyond_start).take(owner), (moves.end + moves.beyond_end).take(owner)
    segments = SegmentColumns(
        begin_s=begin,
        end_s=end,
        anchor_steps=np.where(ends_falling, target, start + own_sign * np.where(falls, far_place, near_place)),
        forward=1 - 2 * falls.view(np.int8),
        sign=own_sign,
        speed=np.maximum(np.minimum(slow, fast), STANDSTILL),
        top=np.maximum(slow, fast),
        acceleration=np.where(falls, -(rate + jerk * (end - begin)), rate),
        jerk=jerk if np.count_nonzero(jerk) else np.broadcast_to(0.0, len(owner)),
        first=first,
        base=np.where(falls, first + counts - 1, first),
        near=np.maximum(np.where(ends_falling, rest, near), 0.0),
    )
    return Cut(segments, owner, counts, last)
