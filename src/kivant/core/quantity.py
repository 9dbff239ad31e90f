"""Quantities as a person types them: one grammar of numbers and units, and what is meant where.

A text is a number with a unit or without one. What the unit may be depends on what is asked for; a position, speed
or acceleration also depends on the axis. All values are exact fractions in the unit that is asked for.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from decimal import Decimal, Inexact, localcontext
from fractions import Fraction
from types import MappingProxyType

from msgspec import Struct

from kivant.core.errors import Fault, ValueTextError, shown
from kivant.core.fields import MOST_DIGITS
from kivant.core.machine.parts import Axis, Unit
from kivant.core.travel.conversion import rotor_turns_per_unit, steps_per_full_step, steps_per_unit, units_per_turn

PI = Fraction("3.14159265358979323846264338327950288419716939937510")
"""The circle number to 50 decimals, for radians: 1e-40 of a step for any move there is."""

LENGTHS_MM: Mapping[str, Fraction] = MappingProxyType({"mm": Fraction(1), "cm": Fraction(10), "in": Fraction("25.4")})
ANGLES_DEG: Mapping[str, Fraction] = MappingProxyType(
    {"deg": Fraction(1), "°": Fraction(1), "rad": 180 / PI, "rev": Fraction(360), "arcmin": Fraction(1, 60)}
)
TIMES_S: Mapping[str, Fraction] = MappingProxyType(
    {"s": Fraction(1), "ms": Fraction(1, 10**3), "us": Fraction(1, 10**6), "µs": Fraction(1, 10**6),
     "ns": Fraction(1, 10**9), "min": Fraction(60)}
)  # fmt: skip
UNITS: Mapping[Unit, Mapping[str, Fraction]] = MappingProxyType({"deg": ANGLES_DEG, "mm": LENGTHS_MM})

_VALUE = r"\s*([+\-\u2212]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d{1,2})?)\s*([^\s\d](?:[^\n]*\S)?)?\s*"
_BETWEEN = r"(?<=[^\W\d_]|°)\s*(?=[+\-\u2212]\s*[\d.])|(?<=[^\W\d_]|°)\s+(?=[\d.])"
"""Between the terms of a sum: after a unit, and before a sign or a blank and a digit."""
_LONGEST_TEXT = 60
_LARGEST = Fraction(10) ** 15
_ROUNDED_DIGITS = 30

Meaning = Callable[[Fraction], Fraction]
"""Turns a number in one unit into the value that is asked for; raises ZeroDivisionError where there is none."""


class Quantity(Struct, frozen=True):
    """What is asked for.

    Parameters
    ----------
    name : str
        What it is, as in “is not a unit of a speed”.
    units : mapping of str to callable
        What a number means in each unit; the key is the unit without blanks, the empty one for a bare number.
    offered : tuple of str
        The units as they are listed for a person.
    example : str
        Something that could be typed.
    place : str
        Whose it is: the axis's name, or what it is of.
    sums : bool
        Whether several terms may be added, as in ``2rev + 15deg``. A term without a sign, ``-2rev 15deg``, has that
        of the one before it.
    """

    name: str
    units: Mapping[str, Meaning]
    offered: tuple[str, ...]
    example: str
    place: str
    sums: bool = False

    def parse(self, text: str) -> Fraction:
        """Return the value that `text` means, in the unit that is asked for.

        Raises
        ------
        ValueTextError
            If the text is not a number, its unit does not fit, or the value is beyond 1e15.
        """
        match = re.fullmatch(_VALUE, text) if len(text) <= _LONGEST_TEXT else None
        if match and self.sums and len(terms := re.split(_BETWEEN, text)) > 1:
            return self._sum(terms)
        if not match:
            raise self._error(text, f" is not {self._article} {self.name}.")
        number, unit = match.group(1).replace("\u2212", "-"), match.group(2) or ""
        meaning = self.units.get("".join(unit.split()))
        if meaning is None:
            raise self._error(text, f": “{shown(unit)}” is not a unit of {self._article} {self.name}.")
        try:
            value = meaning(Fraction(Decimal(number)))
        except ZeroDivisionError:
            raise self._error(text, ": this must be more than 0.") from None
        if abs(value) > _LARGEST:
            raise self._error(text, " is more than 1e15, the most Kivant accepts.")
        return value

    def _sum(self, terms: Sequence[str]) -> Fraction:
        """Return the sum of terms; each is understood by itself."""
        total, sign = Fraction(0), ""
        for term in terms:
            own = re.sub(r"^\s*([+\-\u2212])\s*", r"\1", term)
            sign = own[0] if own[:1] in ("+", "-", "\u2212") else sign
            total += self.parse(own if own[:1] == sign else sign + own)
        return total

    @property
    def _article(self) -> str:
        vowels = "aefhilmnorsx" if len(self.name) == 1 else "aeiou"  # a letter is spoken by its name: an x
        return "an" if self.name[0] in vowels else "a"

    def _error(self, text: str, what: str) -> ValueTextError:
        choice = f" and a unit: {', '.join(self.offered)}" if self.offered else ""
        remedy = f"Type a number{choice}, such as {self.example}."
        return ValueTextError(Fault(self.place, f"“{shown(text)}”{what}", remedy))


def _times(factor: Fraction) -> Meaning:
    return lambda number: number * factor


def _scaled(factors: Mapping[str, Fraction], own: str) -> dict[str, Meaning]:
    return {unit: _times(factor) for unit, factor in factors.items()} | {"": _times(factors[own])}


def _shown_units(axis: Axis) -> tuple[str, ...]:
    return tuple(unit for unit in UNITS[axis.unit] if unit != "°")


def position(axis: Axis) -> Quantity:
    """Return the quantity of a position of the axis, in axis units: ``90deg``, ``-1.25rev``, ``0.5in``, ``400steps``.

    A bare number is in the axis's own unit. On a rotary axis a revolution is one of the output.
    """
    step = 1 / steps_per_unit(axis)
    factors = {**UNITS[axis.unit], "steps": step, "step": step}
    example = {"deg": "90deg or 0.25rev", "mm": "12.5mm or 0.5in"}[axis.unit]
    return Quantity(
        "position", _scaled(factors, axis.unit), (*_shown_units(axis), "steps"), example, axis.name, sums=True
    )


def _speed_factors(axis: Axis) -> dict[str, Fraction]:
    """Return what one of each unit of distance over time is in axis units/s, without the seconds."""
    step = 1 / steps_per_unit(axis)
    full_step = step * steps_per_full_step(axis)
    return {
        **UNITS[axis.unit],
        "steps": step,
        "step": step,
        "fullsteps": full_step,
        "fullstep": full_step,
        "rev": units_per_turn(axis),
    }


def speed(axis: Axis) -> Quantity:
    """Return the quantity of a speed of the axis, in axis units/s.

    Besides distances over time (``60deg/s``, ``400steps/s``, ``200 full steps/s``), ``10rpm`` and ``300 rotor rpm``,
    it may be the time between two steps (``2ms``) or for one turn (``4s/rev``). Turns are those of the last shaft: the
    output of a rotary axis, the screw or pulley of a sliding one.
    """
    turn, step = units_per_turn(axis), 1 / steps_per_unit(axis)
    units = {f"{unit}/s": _times(factor) for unit, factor in _speed_factors(axis).items()}
    units["rpm"] = _times(turn / 60)
    units["rotorrpm"] = _times(1 / rotor_turns_per_unit(axis) / 60)
    units[""] = _times(Fraction(1))
    for unit, seconds in TIMES_S.items():
        between: Meaning = lambda number, s=seconds: step / (number * s)  # type: ignore[misc]  # noqa: E731
        units[unit] = units[f"{unit}/step"] = between
        units[f"{unit}/rev"] = lambda number, s=seconds: turn / (number * s)  # type: ignore[misc]
    offered = (
        *(f"{unit}/s" for unit in _shown_units(axis)),
        "rpm",
        "rotor rpm",
        "steps/s",
        "full steps/s",
        "ms (a step)",
        "s/rev",
    )
    example = {"deg": "60deg/s, 10rpm or 4s/rev", "mm": "40mm/s or 300rpm"}[axis.unit]
    return Quantity("speed", units, offered, example, axis.name)


def acceleration(axis: Axis) -> Quantity:
    """Return the quantity of an acceleration of the axis, in axis units/s²: ``300mm/s2``, ``0.5rev/s²``."""
    units: dict[str, Meaning] = {"": _times(Fraction(1)), "rpm/s": _times(units_per_turn(axis) / 60)}
    for unit, factor in _speed_factors(axis).items():
        units.update(dict.fromkeys((f"{unit}/s2", f"{unit}/s²", f"{unit}/s^2"), _times(factor)))
    offered = (*(f"{unit}/s²" for unit in _shown_units(axis)), "rpm/s", "steps/s²", "full steps/s²")
    example = {"deg": "360deg/s2 or 1rev/s2", "mm": "300mm/s2"}[axis.unit]
    return Quantity("acceleration", units, offered, example, axis.name)


def jerk(axis: Axis) -> Quantity:
    """Return the quantity of a jerk of the axis, in axis units/s³: ``3000mm/s3``, ``5rev/s³``."""
    units: dict[str, Meaning] = {"": _times(Fraction(1))}
    for unit, factor in _speed_factors(axis).items():
        units.update(dict.fromkeys((f"{unit}/s3", f"{unit}/s³", f"{unit}/s^3"), _times(factor)))
    offered = (*(f"{unit}/s³" for unit in _shown_units(axis)), "steps/s³", "full steps/s³")
    example = {"deg": "3600deg/s3 or 10rev/s3", "mm": "3000mm/s3"}[axis.unit]
    return Quantity("jerk", units, offered, example, axis.name)


def microseconds(name: str = "time") -> Quantity:
    """Return the quantity of a short time, in us: ``2.5``, ``900ns``, ``0.5ms``."""
    factors = {unit: seconds * 10**6 for unit, seconds in TIMES_S.items() if unit != "min"}
    return Quantity(name, _scaled(factors, "us"), ("us", "ms", "s", "ns"), "2.5us", name)


def length(name: str = "length") -> Quantity:
    """Return the quantity of a length, in mm: ``2.032``, ``0.1in``."""
    return Quantity(name, _scaled(LENGTHS_MM, "mm"), tuple(LENGTHS_MM), "8mm or 0.1in", name)


def _plain(name: str, example: str, **factors: str) -> Callable[[], Quantity]:
    """Return what makes a quantity without an axis; the first unit is its own, the others count in it."""
    own = next(iter(factors))
    units = {unit: Fraction(factor) for unit, factor in factors.items()}
    return lambda: Quantity(name, _scaled(units, own), tuple(filter(None, units)), example, name)


angle = _plain("angle", "90deg", **{"deg": "1", "°": "1", "rev": "360"})
_TOOL_RATES = dict.fromkeys(("", "mm/s", "mm/s2", "mm/s²", "deg/s", "deg/s2", "deg/s²"), "1")
tool_rate = _plain("limit of the tool", "250", **_TOOL_RATES)
volts = _plain("voltage", "24V", V="1", mV="1/1000")
amperes = _plain("current", "0.6A or 600mA", A="1", mA="1/1000")
ohms = _plain("resistance", "1.7ohm", ohm="1", kohm="1000", Ω="1")
millihenries = _plain("inductance", "2.9mH", mH="1", uH="1/1000", H="1000", µH="1/1000")
newton_metres = _plain("torque", "0.34Nm or 34Ncm", Nm="1", Ncm="1/100", mNm="1/1000")
kilograms = _plain("mass", "0.5kg or 500g", kg="1", g="1/1000")
newtons = _plain("force", "12N", N="1", kN="1000", mN="1/1000")
viscous = _plain("viscous friction", "0.001Nms", Nms="1", mNms="1/1000")
volt_seconds = _plain("voltage constant", "0.2Vs/rad", **{"Vs/rad": "1", "Vs": "1", "mVs/rad": "1/1000"})
efficiency = _plain("efficiency", "0.8 or 80%", **{"": "1", "%": "1/100"})
tolerance = _plain("tolerance", "0.1", **{"": "1", "mm": "1", "deg": "1"})
margin = _plain("margin", "1.5", **{"": "1"})
percents = _plain("share", "50%", **{"%": "1"})
duration = _plain("time", "0.5s or 2min", s="1", ms="1/1000", us="1/1000000", µs="1/1000000", min="60", h="3600")
hertz = _plain("frequency", "100kHz", Hz="1", kHz="1000", MHz="1000000")


def inertia() -> Quantity:
    """Return the quantity of an inertia, in kg m²: ``5.4e-6``, ``54gcm2``."""
    grams = Fraction(1, 10**7)
    units = {"kgm2": Fraction(1), "kgm²": Fraction(1), "gcm2": grams, "gcm²": grams}
    return Quantity("inertia", _scaled(units, "kgm2"), ("kgm²", "gcm²"), "54gcm²", "inertia")


def whole(text: str, name: str, words: tuple[str, ...] = ()) -> int:
    """Return a whole number; one of `words` may stand behind it.

    Raises
    ------
    ValueTextError
        If it is not one.
    """
    plain: Meaning = _times(Fraction(1))
    value = Quantity(name, {"": plain, **dict.fromkeys(words, plain)}, (), "20", name).parse(text)
    if value.denominator != 1:
        raise ValueTextError(Fault(name, f"“{shown(text.strip())}” is not a whole number.", "Type a whole number."))
    return value.numerator


def full_steps(text: str) -> int:
    """Return the full steps of a revolution: as they are counted, or by the angle of one, such as ``1.8deg``.

    Raises
    ------
    ValueTextError
        If it is neither, or the angle does not divide the turn into whole steps.
    """
    name, plain = "number of full steps", _times(Fraction(1))
    turn: Meaning = lambda number: Fraction(360) / number  # noqa: E731
    units = {"": plain, "fullsteps": plain, **dict.fromkeys(("deg", "°", "deg/step", "°/step"), turn)}
    value = Quantity(name, units, ("deg (of a step)",), "200 or 1.8deg", name).parse(text)
    if value.denominator != 1:
        message = f"“{shown(text.strip())}” makes no whole number of steps in a turn."
        raise ValueTextError(Fault(name, message, "Type the steps of a turn, or the angle of one, such as 1.8deg."))
    return value.numerator


def as_decimal(value: Fraction) -> Decimal:
    """Return an exact value as a decimal that a project file can hold, exactly if that has as many digits.

    A third of a turn is no decimal; it then has 30 digits and is right to 1e-15 of an axis unit at the least.
    """
    with localcontext(prec=MOST_DIGITS) as context:
        context.clear_flags()
        found = Decimal(value.numerator) / Decimal(value.denominator)
        if context.flags[Inexact]:
            context.prec = _ROUNDED_DIGITS
        return found.normalize() + 0


def parse_position(axis: Axis, text: str) -> Fraction:
    """Return the position in axis units that `text` means.

    Raises
    ------
    ValueTextError
        As `Quantity.parse`.
    """
    return position(axis).parse(text)


def parse_speed(axis: Axis, text: str) -> Fraction:
    """Return the speed in axis units/s that `text` means.

    Raises
    ------
    ValueTextError
        As `Quantity.parse`.
    """
    return speed(axis).parse(text)
