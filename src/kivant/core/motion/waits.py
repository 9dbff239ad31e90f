"""Waits: how long a plan must stand before some moves, so that drivers have time to change direction.

Between an axis's last step one way and its first one the other way its driver wants a gap; so it does between the
beginning of the plan and the first step. Most moves leave more time than that by themselves.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kivant.core.motion.axis_move import AxisMoves, Cut
from kivant.core.motion.segment import Reals, SegmentColumns, Wholes, instants_of


def waits(
    moves: AxisMoves, cut: Cut, rows_of: Wholes, begin_s: Reals, gaps_s: Reals, setups_s: Reals
) -> dict[int, float]:
    """Return how long to wait before which rows, s.

    Parameters
    ----------
    moves, cut : AxisMoves and Cut
        What all axes do, and its segments.
    rows_of : array of int
        For each move the row before which is waited: where rows follow one another without a stop, the first.
    begin_s : array, s
        When each move would begin without any waits.
    gaps_s, setups_s : array, one for each axis, s
        Between two steps in opposite directions, and before the first one.
    """
    steps = moves.steps
    own = steps.nonzero()[0]  # shares that take steps
    axis, forward = moves.axis[own], moves.way[own] > 0
    opens = _changes(axis)
    turns = (opens | _changes(forward)).nonzero()[0]
    if not len(turns):
        return {}
    ends = np.add.accumulate(steps)[own]
    numbers = np.concatenate((ends[turns] - steps[own[turns]], ends[turns - 1] - 1))  # the first step, the one before
    which = cut.segments.first.searchsorted(numbers, "right") - 1
    move = moves.move[own[np.concatenate((turns, turns - 1))]]
    at = begin_s[move] + instants_of(SegmentColumns._make(column[which] for column in cut.segments), numbers)

    count = len(turns)
    opens, axis = opens[turns], axis[turns]
    needs = np.where(opens, setups_s[axis], at[count:] + gaps_s[axis]) - at[:count]
    short = (needs > 0.0).nonzero()[0]
    if not len(short):
        return {}
    rows = rows_of[move[short]]
    since = np.where(opens[short], -1, rows_of[move[count + short]])
    apart = rows > since  # within a row of spins, the axis stands long enough as it is
    return _in_turn(rows[apart].tolist(), since[apart].tolist(), needs[short][apart].tolist())


def _changes(column: NDArray[Any]) -> NDArray[np.bool_]:
    """Return where a column is another than before, its first number included."""
    found = np.ones(len(column), np.bool_)
    found[1:] = column[1:] != column[:-1]
    return found


def _in_turn(rows: Sequence[int], since: Sequence[int], needs: Sequence[float]) -> dict[int, float]:
    """Return the waits before rows, each of which is less by what is waited after row `since` anyway."""
    found: dict[int, float] = {}
    at, sums = [-1], [0.0]  # rows with a wait before them, and all waits up to there
    for row, earlier, need in sorted(zip(rows, since, needs, strict=True)):
        passed = sums[bisect_right(at, row) - 1] - sums[bisect_right(at, earlier) - 1]
        wait = need - passed
        if wait > 0.0:
            found[row] = found.get(row, 0.0) + wait
            if at[-1] == row:
                sums[-1] += wait
            else:
                at.append(row)
                sums.append(sums[-1] + wait)
    return found
