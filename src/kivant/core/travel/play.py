"""Play: the lost motion of an axis at a reversal, as calibration found it, in whole steps of its motor."""

from __future__ import annotations

from fractions import Fraction

from msgspec import Struct

from kivant.core.machine.parts import Axis
from kivant.core.travel.conversion import nearest_step, steps_per_unit


class Play(Struct, frozen=True):
    """The lost motion of an axis: its steps, and the direction (1 or -1) in which they count for nothing."""

    steps: int
    first: int

    def offset(self, sense: int) -> int:
        """Return by how many steps the motor stands beside the tool where the play is taken up in a direction."""
        return self.steps * (sense - self.first) // 2


def play_of(axis: Axis) -> Play:
    """Return the play of an axis, none where it was not calibrated."""
    calibration = axis.calibration
    if calibration is None or not calibration.backlash:
        return Play(0, 1)
    steps = nearest_step(Fraction(str(calibration.backlash)) * steps_per_unit(axis))
    return Play(steps, calibration.first_direction)
