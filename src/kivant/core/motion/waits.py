"""Waits: how long a plan must stand before some moves, so that drivers have time to change direction.

Between an axis's last step one way and its first one the other way its driver wants a gap; so it does between the
beginning of the plan and the first step. Most moves leave more time than that by themselves.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Sequence
from typing import NamedTuple

import numpy as np

from kivant.core.motion.axis_move import AxisMoves, Cut
from kivant.core.motion.segment import Reals, Segment, Wholes, instants_of


class Gaps(NamedTuple):
    """What the drivers of axes want between steps.

    Parameters
    ----------
    set_up_s, reversal_s : array, shape (axes,), s
        Before the first step, and between two steps in opposite directions.
    fastest : array, shape (axes,)
        What each axis surely is no faster than, steps/s.
    farthest : array, shape ()
        How far any of them goes at the most in the longer of its two times, in steps.
    """

    set_up_s: Reals
    reversal_s: Reals
    fastest: Reals
    farthest: Reals


def waits(
    moves: AxisMoves, cut: Callable[[], Cut], rows: Wholes, heads: Wholes, begin_s: Reals, gaps: Gaps
) -> dict[int, float]:
    """Return how long to wait before which rows, s.

    Parameters
    ----------
    moves : AxisMoves
        What all axes do.
    cut : callable
        Returns its segments; called where the waits depend on them.
    rows : array of int
        The row of each move.
    heads : array of int
        For each row the one before which is waited: where rows follow one another without a stop, the first.
    begin_s : array, s
        When each row would begin without any waits.
    gaps : Gaps
    """
    # An axis that goes up to its first step as fast as it can takes long enough in most cases.
    if not np.count_nonzero(moves.places.from_halves() < gaps.farthest):
        return {}
    sign, to_first, rest, steps = moves.crossings
    if not np.count_nonzero(to_first < gaps.farthest):
        return {}
    own = steps.nonzero()[0]  # shares that take steps
    axis, sign = moves.axis[own], sign[own]
    opens = np.empty(len(own), np.bool_)
    opens[:1], opens[1:] = True, axis[1:] != axis[:-1]
    turned = opens.copy()
    turned[1:] |= sign[1:] != sign[:-1]
    turns = turned.nonzero()[0]
    opens, here, before = opens[turns], own[turns], own[turns - 1]
    turning = axis[turns]
    wanted = np.where(opens, gaps.set_up_s[turning], gaps.reversal_s[turning])
    # Nor is looked at what goes long enough from step to step.
    apart = to_first[here] + np.where(opens, 0.0, rest[before])
    close = (apart < wanted * gaps.fastest[turning]).nonzero()[0]
    if not len(close):
        return {}
    count, opens, wanted, here, before = len(close), opens[close], wanted[close], here[close], before[close]
    # The first step, and the one before.
    upto = moves.crossings.upto
    numbers = np.concatenate((upto[here] - steps[here], upto[before] - 1.0)).astype(np.int64)
    segments, move = cut().segments, moves.move[np.concatenate((here, before))]
    which = segments.first.searchsorted(numbers, "right") - 1
    at = begin_s[rows[move]] + instants_of(Segment._make([column[which] for column in segments]), numbers)

    needs = wanted + np.where(opens, 0.0, at[count:]) - at[:count]
    short = (needs > 0.0).nonzero()[0]
    here, since = heads[rows[move[short]]], heads[rows[move[count + short]]]
    since = np.where(opens[short], -1, since)
    parted = here > since  # within a row of spins, the axis stands long enough as it is
    return _in_turn(here[parted].tolist(), since[parted].tolist(), needs[short][parted].tolist())


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
