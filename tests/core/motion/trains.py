"""Step trains for tests: one axis along ramps of its own, without a machine."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

import numpy as np

from kivant.core.motion.axis_move import axis_moves, cut
from kivant.core.motion.positions import from_each_to_the_next
from kivant.core.motion.ramp import Ramps, trapezoid
from kivant.core.motion.segment import Reals
from kivant.core.motion.train import Ends, StepTrain


def ramps_of(distances: Sequence[float], **limits: float) -> Ramps:
    """Return trapezoids over distances, all within the same limits."""
    return trapezoid(np.array(distances, float), **limits)


def train_along(positions: Sequence[Fraction], ramps: Ramps, begin_s: Sequence[float] | Reals) -> StepTrain:
    """Return the train from each exact position to the next, no two of which are the same, along ramps from 0 to 1."""
    column = from_each_to_the_next(positions)
    moves, _rows = axis_moves(column, None, len(positions) - 1)
    pieces = cut(moves, ramps)
    shift = np.array(begin_s, float)[pieces.owner]
    segments = pieces.segments._replace(begin_s=pieces.segments.begin_s + shift, end_s=pieces.segments.end_s + shift)
    return StepTrain(Ends(column.steps), lambda: segments, lambda: moves.counts[0])
