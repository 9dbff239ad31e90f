"""A move of one's own: a single coordinated move, composed by typing a target for some of the axes."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal

from msgspec.structs import replace

from kivant.app.event import Event
from kivant.core.errors import KivantError
from kivant.core.machine import Machine, Move, Routine
from kivant.core.quantity import as_decimal, parse_position

NAME = "Own move"


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


def own_move(targets: Mapping[str, Decimal], start: Mapping[str, Decimal], name: str = NAME) -> Routine:
    """Return the routine of one coordinated move to `targets`, from `start`."""
    blocks = (Move(to=dict(targets)),) if targets else ()
    return Routine(name=name, start=dict(start) or None, blocks=blocks)


def with_routine(machine: Machine, routine: Routine) -> Machine:
    """Return the machine with one routine more."""
    return replace(machine, routines=(*machine.routines, routine))


class OwnMove:
    """What is typed as targets, by axis name; `changed` tells of every change."""

    def __init__(self) -> None:
        self.changed = Event()
        self.texts: dict[str, str] = {}
        self.errors: dict[str, str] = {}

    def clear(self) -> None:
        """Forget all that was typed."""
        self.texts, self.errors = {}, {}

    def take(self, machine: Machine, axis_name: str, text: str) -> bool:
        """Take a typed target and return whether it could be; one that cannot is explained and changes nothing."""
        self.errors.pop(axis_name, None)
        if text.strip():
            try:
                parse_position(machine.axis(axis_name), text)
            except KivantError as error:
                self.errors[axis_name] = error.faults[0].said
                self.changed()
                return False
        self.texts[axis_name] = text
        self.changed()
        return True

    def forget_error(self, axis_name: str) -> None:
        """Give the old target back."""
        self.errors.pop(axis_name, None)
        self.changed()

    def targets(self, machine: Machine) -> dict[str, Decimal]:
        """Return the targets as positions, as far as they still can be understood."""
        known = {}
        for name, text in self.texts.items():
            try:
                known.update(parse_targets(machine, {name: text}))
            except KivantError:
                continue
        return {axis.name: known[axis.name] for axis in machine.axes if axis.name in known}
