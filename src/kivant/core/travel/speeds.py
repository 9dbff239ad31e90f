"""Speeds in every form that people use: of the tool, of both shafts, in steps, and as times between them."""

from __future__ import annotations

from fractions import Fraction
from typing import NamedTuple

from kivant.core.machine.parts import Axis
from kivant.core.travel.conversion import rotor_turns_per_unit, steps_per_full_step, steps_per_unit, units_per_turn


class SpeedForms(NamedTuple):
    """One speed of an axis, exactly; turns of the output are those of the last shaft, times are in s."""

    units_per_s: Fraction
    output_rpm: Fraction
    rotor_rpm: Fraction
    steps_per_s: Fraction
    full_steps_per_s: Fraction
    s_per_step: Fraction
    s_per_turn: Fraction


def speed_forms(axis: Axis, speed: Fraction) -> SpeedForms:
    """Return a speed in axis units/s, which is not 0, in every form; all but those of the tool without their sign."""
    fast = abs(speed)
    turns, steps = fast / units_per_turn(axis), fast * steps_per_unit(axis)
    rotor = fast * rotor_turns_per_unit(axis)
    return SpeedForms(
        speed, turns * 60, rotor * 60, steps, steps / steps_per_full_step(axis), 1 / steps, 1 / turns
    )  # fmt: skip
