"""Moves of axes, cut into segments that can each be solved for the instants of steps; many at once.

Step k of a movement happens when the ideal position crosses k - 1/2 steps.
"""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from kivant.core.motion.positions import Positions
from kivant.core.motion.ramp import Ramps
from kivant.core.motion.segment import NO_ROWS, STANDSTILL, Reals, Segment, SegmentColumns, Wholes

_FORWARD = np.array((1, -1), np.int8)  # where the ramp does not fall, and where it does


class AxisMoves(NamedTuple):
    """The shares that axes have in moves, one axis behind the other and each in time order; distances in steps.

    Parameters
    ----------
    axis : array of int
        Whose share it is.
    move : array of int
        Which move it is a share of: its row in the ramps.
    way, sign : array
        Distance from start to end, not 0, and its sign.
    to_first, rest : array
        Distance to where the first step is crossed, and from the last one to the end; from 0 to 1.
    steps, upto : array
        How many steps each share has, and how many there are up to its end; whole, but perhaps too many for 64 bits.
    """

    axis: Wholes
    move: Wholes
    way: Reals
    sign: Reals
    to_first: Reals
    rest: Reals
    steps: Reals
    upto: Reals

    @property
    def every(self) -> int:
        """How many steps there are in all."""
        return int(self.upto[-1]) if len(self.upto) else 0


class Cut(NamedTuple):
    """Segments in the order of the moves, of which each belongs to one; ``last`` are those with which moves end.

    Times count from the beginning of the move, steps from the first of all.
    """

    segments: SegmentColumns
    owner: Wholes
    last: NDArray[np.bool_]


def axis_moves(
    positions: Positions, offsets: Wholes, rows: int, apart: Wholes = NO_ROWS, spinning: Wholes = NO_ROWS
) -> tuple[AxisMoves, Wholes]:
    """Return the shares of axes in moves, and the row of each move.

    Those of one row are one move, unless axes go apart in it: then each share is a move of its own, behind all others.
    Those of spins are the last, in the order of axes and of time.

    Parameters
    ----------
    positions : Positions
        Where each axis begins, and is after each of the rows that name it, of so many `rows`.
    offsets : array of int
        What the motor stands beside each of them.
    apart, spinning : arrays of int, optional
        In which of the rows axes go apart, and in which they spin.
    """
    (over, below), beside = positions.steps, np.count_nonzero(offsets) > 0
    ways = over[1:] - over[:-1]
    moved = ways != 0
    if beside:
        moved |= offsets[1:] != offsets[:-1]
    moved[positions.bounds[1:-1] - 1] = False  # where one axis ends, the next one begins
    before = moved.nonzero()[0]
    after = before + 1
    near, beyond = positions.steps.nearest()
    way = (ways.take(before) / below.take(before)).astype(np.float64, copy=False)
    if beside:
        near += offsets
        way += offsets[after] - offsets[before]
    every = positions.rows[after]
    used = np.zeros(rows, np.int64)
    used[every] = 1
    by_themselves = len(apart) + len(spinning) > 0
    if by_themselves:
        used[apart], used[spinning] = 0, 0
    together, move = used.nonzero()[0], (np.add.accumulate(used) - 1)[every]
    sign, steps = np.sign(way), np.abs(near[after] - near[before]).astype(np.float64)
    to_first, rest = 0.5 - sign * beyond[before], 0.5 + sign * beyond[after]
    moves = AxisMoves(positions.axis[after], move, way, sign, to_first, rest, steps, np.add.accumulate(steps))
    if not by_themselves:
        return moves, together
    alone = np.concatenate([np.isin(every, own).nonzero()[0] for own in (apart, spinning)])
    move[alone] = len(together) + np.arange(len(alone))
    return moves, np.concatenate((together, every[alone]))


def cut(moves: AxisMoves, ramps: Ramps) -> Cut:
    """Return the segments of moves along their ramps from 0 to 1; pieces that take no time have none."""
    table = ramps.table.take(moves.move, axis=2)
    times, (places, speeds, rates, jerks) = table[0], table[1:] * np.abs(moves.way)
    is_end = times == times[-1]
    passed = np.maximum(np.minimum(np.ceil(places - moves.to_first), moves.steps), 0.0)  # steps up to each break
    np.copyto(passed, moves.steps, where=is_end)
    to_next = passed - places + moves.to_first
    first = (passed + (moves.upto - moves.steps)).astype(np.int64)

    # From each break to the next; what takes no time is left out at the end.
    owner, piece = (times[1:] > times[:-1]).T.nonzero()
    falls = speeds[:-1] > speeds[1:]
    slow, fast = np.minimum(speeds[:-1], speeds[1:]), np.maximum(speeds[:-1], speeds[1:])
    if np.count_nonzero(jerks):
        rates[:-1] += falls * jerks[:-1] * (times[1:] - times[:-1])
    np.negative(rates[:-1], out=rates[:-1], where=falls)
    near = np.where(falls, 1.0 - to_next[1:], to_next[:-1])
    np.copyto(near, moves.rest, where=falls & is_end[1:])
    columns: tuple[NDArray[Any], ...] = (
        times[:-1], times[1:], _FORWARD.take(falls.view(np.int8)), np.maximum(slow, STANDSTILL), fast,
        rates[:-1], jerks[:-1], first[:-1], np.where(falls, first[1:] - 1, first[:-1]), np.maximum(near, 0.0),
    )  # fmt: skip
    own = piece * len(moves.move) + owner
    begin, end, forward, *further = [column.take(own) for column in columns]
    segments = Segment(begin, end, forward, moves.sign.astype(np.int8).take(owner), *further)
    return Cut(segments, owner, is_end[1:].take(own))
