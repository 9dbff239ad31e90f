"""Dividing: equal parts of a turn or a length, or a list of positions, and what steps make of each.

Every target is rounded from its exact position, so that no rounding adds up; `drift` shows what would happen if each
relative move were rounded by itself.
"""

from __future__ import annotations

from fractions import Fraction

from msgspec import Struct

from kivant.core.errors import Fault, ValueTextError
from kivant.core.machine.parts import Axis
from kivant.core.quantity import parse_position
from kivant.core.travel.conversion import nearest_step, steps_per_unit, units_per_turn

MOST_PARTS = 100_000


class Division(Struct, frozen=True):
    """One place: where it should be, the step next to it, and how far that is beside it, in axis units."""

    position: Fraction
    steps: int
    error: Fraction


def span_of(axis: Axis) -> tuple[Fraction, Fraction]:
    """Return what is divided, from and to, in axis units: a turn of a rotary axis; the travel of a sliding one.

    A sliding axis without limits is divided over one turn of its last shaft.
    """
    if axis.unit == "deg":
        return Fraction(0), Fraction(360)
    low, high = axis.limits.min, axis.limits.max
    if low is None or high is None or low == high:
        return Fraction(0), units_per_turn(axis)
    return Fraction(low), Fraction(high)


def divide(axis: Axis, count: int) -> tuple[Division, ...]:
    """Return the beginnings of `count` equal parts.

    Raises
    ------
    ValueTextError
        If there are none, or too many to be looked at.
    """
    if not 1 <= count <= MOST_PARTS:
        message = f"{count} parts cannot be made; expected 1 to {MOST_PARTS}."
        raise ValueTextError(Fault("parts", message, "Type a number such as 12."))
    low, high = span_of(axis)
    return places(axis, tuple(low + (high - low) * k / count for k in range(count)))


def places(axis: Axis, positions: tuple[Fraction, ...]) -> tuple[Division, ...]:
    """Return what steps make of positions in axis units."""
    ratio, found = steps_per_unit(axis), []
    for position in positions:
        steps = nearest_step(position * ratio)
        found.append(Division(position, steps, steps / ratio - position))
    return tuple(found)


def typed_places(axis: Axis, text: str) -> tuple[Division, ...]:
    """Return what steps make of a typed or pasted list: positions between semicolons, line breaks or blanks.

    A unit stands right behind its number. A comma parts two positions where a blank or a line break follows it.

    Raises
    ------
    ValueTextError
        Naming the first that is no position.
    """
    entries = [entry.rstrip(",") for entry in text.replace(";", " ").split()]
    entries = [entry for entry in entries if entry]
    if not 1 <= len(entries) <= MOST_PARTS:
        message = f"Expected 1 to {MOST_PARTS} positions; found {len(entries)}."
        raise ValueTextError(Fault("positions", message, "Type them separated by spaces, such as 0 12.5 40deg."))
    return places(axis, tuple(parse_position(axis, entry) for entry in entries))


def drift(axis: Axis, divisions: tuple[Division, ...], rounds: int) -> Fraction:
    """Return how far off a round of places would be after `rounds` of them, if each way were rounded by itself.

    The way from the last place leads on to the first one, a span further.
    """
    ratio, (low, high) = steps_per_unit(axis), span_of(axis)
    ends = [*(d.position for d in divisions[1:]), divisions[0].position + (high - low)]
    ways = [after - before.position for before, after in zip(divisions, ends, strict=True)]
    return rounds * (sum(nearest_step(way * ratio) for way in ways) / ratio - sum(ways, Fraction(0)))
