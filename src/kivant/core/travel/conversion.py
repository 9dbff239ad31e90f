"""Conversion: exact steps per unit from rotor to tool, positions to steps and back.

Everything here is rational arithmetic; a float appears only where a person reads a number.
"""

from __future__ import annotations

from fractions import Fraction

from msgspec import Struct

from kivant.core.drive.drivers import driver_kind
from kivant.core.machine.parts import Axis
from kivant.core.travel.stages import stage_kind, stage_ratio


class Conversion(Struct, frozen=True):
    """A wanted position and what the axis makes of it; positions in axis units, all exact."""

    position: Fraction
    steps_per_unit: Fraction
    steps_exact: Fraction
    steps: int
    actual: Fraction
    error: Fraction


def steps_per_rev(axis: Axis) -> int | Fraction:
    """Return the steps of one rotor revolution: full steps times rows or microsteps per full step."""
    return axis.motor.full_steps_per_rev * steps_per_full_step(axis)


def steps_per_full_step(axis: Axis) -> int | Fraction:
    """Return how many steps make one full step of the motor."""
    return driver_kind(axis.driver).steps_per_full_step(axis.driver)


def chain_steps_per_unit(axis: Axis) -> Fraction:
    """Return the exact number of steps for one axis unit (deg or mm) by motor, driver and stages alone."""
    steps, units = steps_per_rev(axis).as_integer_ratio()  # fractions would reduce themselves at every stage
    for stage in axis.travel:
        ratio = stage_ratio(stage)
        steps, units = steps * ratio.numerator, units * ratio.denominator
    return Fraction(steps, 360 * units if axis.unit == "deg" else units)


def steps_per_unit(axis: Axis) -> Fraction:
    """Return the exact number of steps for one axis unit (deg or mm): those of the chain, over the calibrated scale.

    An axis remembers it: all that is planned, found and painted asks for it.
    """
    known: Fraction | None = axis.__dict__.get("steps_per_unit")
    if known is None:
        known = chain_steps_per_unit(axis)
        if axis.calibration is not None:
            known /= Fraction(axis.calibration.scale)
        axis.__dict__["steps_per_unit"] = known
    return known


def units_per_turn(axis: Axis) -> Fraction:
    """Return how far one revolution of the last shaft moves the axis, in its units: 360 deg, or its lead in mm."""
    if axis.unit == "deg":
        return Fraction(360)
    last = axis.travel[-1] if axis.travel else None
    return 1 / stage_ratio(last) if last is not None and stage_kind(last).linear else Fraction(1)


def rotor_turns_per_unit(axis: Axis) -> Fraction:
    """Return how many revolutions the rotor makes for one axis unit."""
    return steps_per_unit(axis) / steps_per_rev(axis)


def nearest_step(steps_exact: Fraction) -> int:
    """Return the nearest whole number of steps; a tie goes away from zero."""
    numerator, denominator = steps_exact.numerator, steps_exact.denominator
    whole = (2 * abs(numerator) + denominator) // (2 * denominator)
    return whole if numerator >= 0 else -whole


def convert(axis: Axis, position: Fraction) -> Conversion:
    """Return what the axis makes of a wanted position in axis units."""
    ratio = steps_per_unit(axis)
    exact = position * ratio
    steps = nearest_step(exact)
    actual = steps / ratio
    return Conversion(position, ratio, exact, steps, actual, actual - position)
