"""A single coordinated move, composed by typing a target for some of the axes."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from decimal import Decimal, localcontext
from fractions import Fraction

from kivant.core.machine import Machine, Move, Routine
from kivant.core.travel import parse_position

OWN_MOVE = "Own move"


def as_decimal(position: Fraction) -> Decimal:
    """Return an exact position as a decimal of at most 30 digits: what a project file can hold.

    A third of a turn is no decimal; it then is right to 1e-15 of an axis unit at the least.
    """
    with localcontext() as context:
        context.prec = 30
        return (Decimal(position.numerator) / Decimal(position.denominator)).normalize() + 0


def parse_targets(machine: Machine, texts: Mapping[str, str]) -> dict[str, Decimal]:
    """Return the targets by axis name, in axis units, of what was typed; empty texts are left out.

    Raises
    ------
    ValueTextError
        At the first text that cannot be understood.
    """
    return {
        axis.name: as_decimal(parse_position(axis, texts[axis.name]))
        for axis in machine.axes
        if texts.get(axis.name, "").strip()
    }


def own_move(targets: Mapping[str, Decimal], start: Mapping[str, Decimal], name: str = OWN_MOVE) -> Routine:
    """Return the routine of one coordinated move to `targets`, from `start`."""
    blocks = (Move(to=dict(targets)),) if targets else ()
    return Routine(name=name, start=dict(start) or None, blocks=blocks)


def free_name(machine: Machine, wanted: str) -> str:
    """Return a name that no routine of the machine has, like the one wanted."""
    taken = {routine.name for routine in machine.routines}
    name, number = wanted, 2
    while name in taken:
        name, number = f"{wanted} {number}", number + 1
    return name


def with_routine(machine: Machine, routine: Routine) -> Machine:
    """Return the machine with one routine more."""
    return replace(machine, routines=(*machine.routines, routine))
