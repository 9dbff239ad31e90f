"""Travel: exact steps per unit from rotor to tool, positions to steps and back, values with units.

Everything here is rational arithmetic; a float appears only where a person reads a number.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction
from types import MappingProxyType

from kivant.core.errors import Fault, ValueTextError
from kivant.core.machine import Axis, Belt, CoilDriver, Gear, Ratio, Screw, Stage, Unit
from kivant.core.phases import STEPS_PER_FULL_STEP

PI = Fraction("3.14159265358979323846264338327950288419716939937510")
"""The circle number to 50 decimals, for radians: 1e-40 of a step for any move there is."""

LENGTHS_MM = MappingProxyType({"mm": Fraction(1), "cm": Fraction(10), "in": Fraction("25.4")})
ANGLES_DEG = MappingProxyType(
    {
        "deg": Fraction(1),
        "°": Fraction(1),
        "rad": 180 / PI,
        "rev": Fraction(360),
        "arcmin": Fraction(1, 60),
    }
)
UNITS: MappingProxyType[Unit, MappingProxyType[str, Fraction]] = MappingProxyType({"deg": ANGLES_DEG, "mm": LENGTHS_MM})

_VALUE = re.compile(r"\s*([+\-\u2212]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d{1,2})?)\s*([^\s\d]\S*)?\s*")
_LONGEST_TEXT = 60
_LARGEST = Fraction(10) ** 15


@dataclass(frozen=True, slots=True)
class Conversion:
    """A wanted position and what the axis makes of it; positions in axis units, all exact."""

    position: Fraction
    steps_per_unit: Fraction
    steps_exact: Fraction
    steps: int
    actual: Fraction
    error: Fraction


def stage_ratio(stage: Stage) -> Fraction:
    """Return by how much a stage multiplies steps per output: per revolution, or per mm for belt and screw."""
    match stage:
        case Gear():
            return Fraction(stage.driven, stage.driving)
        case Ratio():
            return Fraction(stage.ratio)
        case Belt():
            return 1 / (Fraction(stage.pitch) * stage.teeth)
        case Screw():
            return 1 / Fraction(stage.lead)


def steps_per_rev(axis: Axis) -> int:
    """Return the steps of one rotor revolution: full steps times rows or microsteps per full step."""
    driver = axis.driver
    per_full_step = STEPS_PER_FULL_STEP[driver.sequence] if isinstance(driver, CoilDriver) else driver.microsteps
    return axis.motor.full_steps_per_rev * per_full_step


def steps_per_unit(axis: Axis) -> Fraction:
    """Return the exact number of steps for one axis unit (deg or mm)."""
    steps = Fraction(steps_per_rev(axis))
    for stage in axis.travel:
        steps *= stage_ratio(stage)
    return steps / 360 if axis.unit == "deg" else steps


def nearest_step(steps_exact: Fraction) -> int:
    """Return the nearest whole number of steps; a tie goes away from zero."""
    return nearest_quotient(steps_exact.numerator, steps_exact.denominator)


def nearest_quotient(numerator: int, denominator: int) -> int:
    """Return the whole number nearest to a quotient of whole numbers; a tie goes away from zero."""
    whole = (2 * abs(numerator) + denominator) // (2 * denominator)
    return whole if numerator >= 0 else -whole


def convert(axis: Axis, position: Fraction) -> Conversion:
    """Return what the axis makes of a wanted position in axis units."""
    ratio = steps_per_unit(axis)
    exact = position * ratio
    steps = nearest_step(exact)
    actual = steps / ratio
    return Conversion(position, ratio, exact, steps, actual, actual - position)


def _wrong(axis: Axis, text: str, what: str, kind: str) -> ValueTextError:
    units = [unit for unit in UNITS[axis.unit] if unit != "°"]
    example = {"deg": "90deg or 0.25rev", "mm": "12.5mm or 0.5in"}[axis.unit]
    if kind == "speed":
        units = [f"{unit}/s" for unit in units] + (["rpm"] if axis.unit == "deg" else []) + ["steps/s"]
        example = {"deg": "60deg/s or 10rpm", "mm": "40mm/s"}[axis.unit]
    else:
        units.append("steps")
    shown = text if len(text) <= _LONGEST_TEXT else text[: _LONGEST_TEXT - 1] + "…"
    remedy = f"Type a number and a unit of {', '.join(units)}, such as {example}."
    return ValueTextError(Fault(axis.name, f"“{shown}”{what}", remedy))


def _parse(axis: Axis, text: str, kind: str, factors: dict[str, Fraction]) -> Fraction:
    match = _VALUE.fullmatch(text) if len(text) <= _LONGEST_TEXT else None
    if not match:
        raise _wrong(axis, text, " is not a number with a unit.", kind)
    number, unit = match.group(1).replace("\u2212", "-"), match.group(2)
    default = axis.unit if kind == "position" else f"{axis.unit}/s"
    factor = factors.get(unit or default)
    if factor is None:
        raise _wrong(axis, text, f": “{unit}” is no unit of a {kind} of this axis.", kind)
    value = Fraction(Decimal(number)) * factor
    if abs(value) > _LARGEST:
        raise _wrong(axis, text, f" is more than 1e15 {default}, the most Kivant takes.", kind)
    return value


def parse_position(axis: Axis, text: str) -> Fraction:
    """Return the position in axis units that `text` means: ``90deg``, ``-1.25rev``, ``0.5in``, ``400steps``.

    A bare number is in the axis's own unit. On a rotary axis a revolution is one of the output.

    Raises
    ------
    ValueTextError
        If the text is no number, its unit does not fit the axis, or the value is beyond 1e15 units.
    """
    step = 1 / steps_per_unit(axis)
    return _parse(axis, text, "position", {**UNITS[axis.unit], "steps": step, "step": step})


def parse_speed(axis: Axis, text: str) -> Fraction:
    """Return the speed in axis units per second that `text` means: ``60deg/s``, ``10rpm``, ``400steps/s``.

    Revolutions per minute are those of the output of a rotary axis.

    Raises
    ------
    ValueTextError
        If the text is no number, its unit does not fit the axis, or the value is beyond 1e15 units/s.
    """
    factors = {f"{unit}/s": factor for unit, factor in UNITS[axis.unit].items()}
    factors["steps/s"] = 1 / steps_per_unit(axis)
    if axis.unit == "deg":
        factors["rpm"] = Fraction(6)
    return _parse(axis, text, "speed", factors)
