"""Moves of axes, cut into segments that can each be solved for the instants of steps; many at once."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, NamedTuple

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from kivant.core.kept import kept
from kivant.core.motion.crossings import Crossings, crossings
from kivant.core.motion.exact import Exact
from kivant.core.motion.positions import Positions
from kivant.core.motion.ramp import Ramps
from kivant.core.motion.segment import NO_ROWS, NOUGHT, ONE, STANDSTILL, Reals, Segment, SegmentColumns, Wholes

_FORWARD = np.array((1, -1), np.int8)  # where the ramp does not fall, and where it does


class AxisMoves(Struct, dict=True):
    """The shares that so many axes have in moves, one behind the other and each in time order; distances in steps.

    Parameters
    ----------
    axes : int
    axis : array of int
        Whose share it is.
    move : array of int
        Which move it is a share of: its row in the ramps.
    way : array
        Distance from start to end, not 0.
    before : array of int
        With which of the places it begins; it ends with the one behind that.
    places : Exact
        Where the axes begin, and what they are commanded.
    offsets : array of int or None
        What the motor stands beside each of the places.
    """

    axes: int
    axis: Wholes
    move: Wholes
    way: Reals
    before: Wholes
    places: Exact
    offsets: Wholes | None

    @kept
    def crossings(self) -> Crossings:
        """Where they cross from step to step."""
        return crossings(self.places, self.offsets, self.before, self.way)

    @kept
    def counts(self) -> Sequence[int]:
        """How many steps each axis takes."""
        return [*map(int, np.bincount(self.axis, self.crossings.steps, self.axes).tolist())]


class Cut(NamedTuple):
    """Segments in the order of the moves, of which each belongs to one; ``last`` are those with which moves end.

    Times count from the beginning of the move, steps from the first of all.
    """

    segments: SegmentColumns
    owner: Wholes
    last: NDArray[np.bool_]


def axis_moves(
    positions: Positions, offsets: Wholes | None, rows: int, apart: Wholes = NO_ROWS, spinning: Wholes = NO_ROWS
) -> tuple[AxisMoves, Wholes]:
    """Return the shares of axes in moves, and the row of each move.

    Those of one row are one move, unless axes go apart in it: then each share is a move of its own, behind all others.
    Those of spins are the last, in the order of axes and of time.

    Parameters
    ----------
    positions : Positions
        Where each axis begins, and is after each of the rows that name it, of so many `rows`.
    offsets : array of int or None
        What the motor stands beside each of them.
    apart, spinning : arrays of int, optional
        In which of the rows axes go apart, and in which they spin.
    """
    over, below = positions.steps
    ways = over[1:] - over[:-1]
    moved = ways.astype(np.bool_)
    if offsets is not None:
        moved |= offsets[1:] != offsets[:-1]
    for end in positions.bounds[1:-1]:
        moved[end - 1] = False  # here one axis ends, and the next one begins
    before = moved.nonzero()[0]
    after = before + ONE
    way = (ways / below[:-1]).take(before).astype(np.float64, copy=False)
    if offsets is not None:
        way += offsets[after] - offsets[before]
    every = positions.rows[after]
    used = np.zeros(rows, np.int64)
    used[every] = 1
    by_themselves = len(apart) + len(spinning) > 0
    if by_themselves:
        used[apart], used[spinning] = 0, 0
    together, move = used.nonzero()[0], (np.add.accumulate(used) - ONE)[every]
    moves = AxisMoves(len(positions.bounds) - 1, positions.axis[after], move, way, before, positions.steps, offsets)
    if not by_themselves:
        return moves, together
    alone = np.concatenate([np.isin(every, own).nonzero()[0] for own in (apart, spinning)])
    move[alone] = len(together) + np.arange(len(alone))
    return moves, np.concatenate((together, every[alone]))


def cut(moves: AxisMoves, ramps: Ramps) -> Cut:
    """Return the segments of moves along their ramps from 0 to 1; pieces that take no time have none."""
    sign, to_first, rest, steps = moves.crossings
    table = ramps.table.take(moves.move, axis=2)
    times, (places, speeds, rates, jerks) = table[0], table[1:] * np.abs(moves.way)
    is_end = times == times[-1]
    passed = np.maximum(np.minimum(np.ceil(places - to_first), steps), NOUGHT)  # steps up to each break
    np.copyto(passed, steps, where=is_end)
    to_next = passed - places + to_first
    first = (passed + (moves.crossings.upto - steps)).astype(np.int64)

    # From each break to the next; what takes no time is left out at the end.
    owner, piece = (times[1:] > times[:-1]).T.nonzero()
    falls = speeds[:-1] > speeds[1:]
    slow, fast = np.minimum(speeds[:-1], speeds[1:]), np.maximum(speeds[:-1], speeds[1:])
    if np.count_nonzero(jerks):
        rates[:-1] += falls * jerks[:-1] * (times[1:] - times[:-1])
    np.negative(rates[:-1], out=rates[:-1], where=falls)
    near = np.where(falls, 1.0 - to_next[1:], to_next[:-1])
    np.copyto(near, rest, where=falls & is_end[1:])
    columns: tuple[NDArray[Any], ...] = (
        times[:-1], times[1:], _FORWARD.take(falls.view(np.int8)), np.maximum(slow, STANDSTILL), fast,
        rates[:-1], jerks[:-1], first[:-1], np.where(falls, first[1:] - ONE, first[:-1]), np.maximum(near, NOUGHT),
    )  # fmt: skip
    own = piece * len(moves.move) + owner
    begin, end, forward, *further = [column.take(own) for column in columns]
    segments = Segment(begin, end, forward, sign.astype(np.int8).take(owner), *further)
    return Cut(segments, owner, is_end[1:].take(own))
