"""The step trains of all axes of a plan: what they have in common is cut into segments when it is first looked at.

When blocks begin and end and where axes stand is known without segments and steps, and some who plan ask for nothing
else.
"""

from __future__ import annotations

from functools import partial
from itertools import accumulate, pairwise

import numpy as np

from kivant.core.motion.axis_move import AxisMoves, Cut, cut
from kivant.core.motion.layout import Layout
from kivant.core.motion.ramp import Ramps
from kivant.core.motion.segment import Reals, Segment, SegmentColumns, Wholes
from kivant.core.motion.train import Ends, StepTrain

_SAME_S = 1e-12  # of the time from the plan's start: what rounding makes of two ends that are one


class Uncut:
    """Moves in rows along their ramps, which are cut when somebody looks at a segment."""

    def __init__(self, moves: AxisMoves, rows: Wholes, ramps: Ramps) -> None:
        self.moves, self.rows, self._ramps = moves, rows, ramps
        self._pieces: Cut | None = None

    def pieces(self) -> Cut:
        """Return their segments, of which times count from the beginning of each move."""
        if self._pieces is None:
            self._pieces = cut(self.moves, self._ramps)
        return self._pieces


class Segments:
    """The segments of all axes, with times from the plan's start; what they are made of is kept no longer than needed.

    Two threads may look at them at once: then both make the same.
    """

    def __init__(self, uncut: Uncut, begin_s: Reals, end_s: Reals) -> None:
        """Take when each row begins and ends, s."""
        self._own: tuple[Uncut, Reals, Reals] | list[tuple[SegmentColumns, int]] = uncut, begin_s, end_s

    def of(self, axis: int) -> SegmentColumns:
        """Return the segments of one axis, whose steps count from its first one."""
        own = self._own
        if isinstance(own, tuple):
            own = self._own = _by_axis(*own)
        return own[axis][0]

    def count(self, axis: int) -> int:
        """Return how many steps one axis takes."""
        own = self._own
        return own[0].moves.counts[axis] if isinstance(own, tuple) else own[axis][1]


def _by_axis(uncut: Uncut, begin_s: Reals, end_s: Reals) -> list[tuple[SegmentColumns, int]]:
    """Return the segments of each axis, and its number of steps; those of the moves stay as they are."""
    segments, owner, last = uncut.pieces()
    rows, axis = uncut.rows[uncut.moves.move[owner]], uncut.moves.axis[owner]
    begin, end, ends = segments.begin_s + begin_s[rows], segments.end_s + begin_s[rows], end_s[rows]
    # The end of a block and that of its last piece are one number, however the sums were rounded.
    same = np.abs(end - ends) <= _SAME_S * np.maximum(ends, 1.0)  # others may move for longer
    np.copyto(end, ends, where=same & last)
    first, base, steps = segments.first, segments.base, uncut.moves.counts
    if len(steps) > 1:
        before = np.array([0, *accumulate(steps)])[axis]  # steps of other axes
        first, base = first - before, base - before
    on_clock = Segment(begin, end, *segments[2:-3], first, base, segments.near)
    bounds = axis.searchsorted(np.arange(len(steps) + 1)).tolist()
    own: list[SegmentColumns] = [
        Segment._make([column[low:high] for column in on_clock]) for low, high in pairwise(bounds)
    ]
    return list(zip(own, steps, strict=True))


def trains_of(layout: Layout, uncut: Uncut, begin_s: Reals, end_s: Reals) -> list[StepTrain]:
    """Return the step train of every axis, by when each row begins and ends, s."""
    positions, offsets = layout.loose.positions, layout.loose.offsets
    segments, found = Segments(uncut, begin_s, end_s), []
    for axis, (start, end) in enumerate(pairwise(positions.bounds)):
        ends = Ends(positions.steps, offsets, (start, end - 1))
        found.append(StepTrain(ends, partial(segments.of, axis), partial(segments.count, axis)))
    return found
