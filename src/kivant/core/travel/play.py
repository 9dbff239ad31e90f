"""Play: the lost motion of an axis at a reversal, as calibration found it, in whole steps of its motor."""

from __future__ import annotations

from fractions import Fraction

from msgspec import Struct

from kivant.core.machine.parts import Axis
from kivant.core.travel.conversion import nearest_step, steps_per_unit

Sense = int | Fraction
"""Where an axis is in its play: 1 or -1 where it is taken up in that direction, in between where only some of it is."""


class Play(Struct, frozen=True):
    """The lost motion of an axis: its steps, and the direction (1 or -1) in which they count for nothing."""

    steps: int
    first: int

    def offset(self, sense: Sense) -> int:
        """Return by how many steps the motor stands beside the tool."""
        return nearest_step(Fraction(self.steps * (sense - self.first)) / 2)

    def sense(self, offset: int) -> Sense:
        """Return where the axis is in its play when its motor stands so many steps beside the tool."""
        return self.first + Fraction(2 * offset, self.steps) if self.steps else self.first

    def after(self, sense: Sense, gone: int) -> Sense:
        """Return where the axis is in its play when its motor has gone so many steps; the rest takes the tool along."""
        if not self.steps:
            return (gone > 0) - (gone < 0) or sense
        return min(max(Fraction(sense) + Fraction(2 * gone, self.steps), Fraction(-1)), Fraction(1))


def play_of(axis: Axis) -> Play:
    """Return the play of an axis, none where it was not calibrated."""
    calibration = axis.calibration
    if calibration is None or not calibration.backlash:
        return Play(0, 1)
    steps = nearest_step(Fraction(str(calibration.backlash)) * steps_per_unit(axis))
    return Play(steps, calibration.first_direction)
