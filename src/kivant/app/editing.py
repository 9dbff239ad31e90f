"""Edits of a machine as a user makes them: each takes a machine and what was typed, and returns another machine.

An edit that breaks a rule of the project file raises that rule's error and changes nothing.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import replace
from decimal import Decimal
from typing import Any

from kivant.core.errors import Fault, ValueTextError
from kivant.core.machine import (
    Axis,
    Belt,
    CoilDriver,
    Gear,
    Machine,
    Move,
    PulseDriver,
    Ratio,
    Routine,
    Screw,
    SequenceName,
    Stage,
)
from kivant.core.travel import parse_position, parse_speed
from kivant.files import project

Edit = Callable[[Machine], Machine]

FREE = "free"
"""What is typed, or shown, for a position that has no limit."""


def checked(machine: Machine, *, routines: bool = False) -> Machine:
    """Return `machine` if it keeps every rule of the project file.

    Without `routines`, those are left out of the check: most edits cannot touch them, and they may be long.

    Raises
    ------
    ProjectError
        Naming each broken rule with its place.
    """
    project.check(machine if routines else replace(machine, routines=()))
    return machine


def with_axis(machine: Machine, index: int, axis: Axis) -> Machine:
    """Return the machine with one axis replaced, checked."""
    axes = (*machine.axes[:index], axis, *machine.axes[index + 1 :])
    return checked(replace(machine, axes=axes))


def number(text: str, what: str, units: dict[str, Decimal]) -> Decimal:
    """Return a plain number with one of `units` behind it or none; the factors turn it into the first of them.

    Raises
    ------
    ValueTextError
        If it is no number, or has another unit.
    """
    match = re.fullmatch(r"\s*([+\-\u2212]?(?:\d{1,15}\.?\d{0,15}|\.\d{1,15})(?:[eE][+-]?\d{1,2})?)\s*(\S*)\s*", text)
    factor = units.get(match.group(2) or next(iter(units), "")) if match else None
    if match is None or factor is None:
        shown = text if len(text) <= 40 else f"{text[:39]}…"
        choice = f" and a unit of {', '.join(u for u in units if u)}" if any(units) else ""
        raise ValueTextError(Fault(what, f"“{shown}” is no {what}.", f"Type a number{choice}."))
    return Decimal(match.group(1).replace("\u2212", "-")) * factor


TIMES_US = {"us": Decimal(1), "µs": Decimal(1), "ms": Decimal(1000), "s": Decimal(1_000_000), "ns": Decimal("0.001")}
PLAIN = {"": Decimal(1)}


def limit(index: int, key: str, text: str) -> Edit:
    """Change a limit of an axis: speeds and positions take units, accelerations are in axis units.

    An empty text, or “free”, takes a limit of the position away.
    """

    def edit(machine: Machine) -> Machine:
        axis = machine.axes[index]
        value: Any
        if key in ("speed", "start_speed"):
            value = float(parse_speed(axis, text))
        elif key in ("min", "max"):
            fraction = None if text.strip().lower() in ("", FREE) else parse_position(axis, text)
            value = None if fraction is None else Decimal(fraction.numerator) / Decimal(fraction.denominator)
        else:
            unit = f"{axis.unit}/s²"
            units = {unit: Decimal(1), unit.replace("²", "2"): Decimal(1), f"{axis.unit}/s^2": Decimal(1)}
            value = float(number(text, "acceleration", units))
        return with_axis(machine, index, replace(axis, limits=replace(axis.limits, **{key: value})))

    return edit


def limit_value(index: int, key: str, value: float) -> Edit:
    """Change a limit of an axis to a figure, as when a handle is dragged."""

    def edit(machine: Machine) -> Machine:
        axis = machine.axes[index]
        change: dict[str, Any] = {key: value}
        return with_axis(machine, index, replace(axis, limits=replace(axis.limits, **change)))

    return edit


def driver_time(index: int, key: str, text: str) -> Edit:
    """Change a time of a pulse driver; microseconds, or with a unit."""

    def edit(machine: Machine) -> Machine:
        axis = machine.axes[index]
        assert isinstance(axis.driver, PulseDriver)
        change: dict[str, Any] = {key: float(number(text, "time", TIMES_US))}
        return with_axis(machine, index, replace(axis, driver=replace(axis.driver, **change)))

    return edit


def sequence(index: int, name: SequenceName) -> Edit:
    """Switch a coil driver to another sequence."""

    def edit(machine: Machine) -> Machine:
        axis = machine.axes[index]
        assert isinstance(axis.driver, CoilDriver)
        return with_axis(machine, index, replace(axis, driver=replace(axis.driver, sequence=name)))

    return edit


def microsteps(index: int, text: str) -> Edit:
    """Change the pulses of one full step."""

    def edit(machine: Machine) -> Machine:
        axis = machine.axes[index]
        assert isinstance(axis.driver, PulseDriver)
        value = whole(text, "number of microsteps")
        return with_axis(machine, index, replace(axis, driver=replace(axis.driver, microsteps=value)))

    return edit


def full_steps(index: int, text: str) -> Edit:
    """Change the motor's full steps of one revolution."""

    def edit(machine: Machine) -> Machine:
        axis = machine.axes[index]
        motor = replace(axis.motor, full_steps_per_rev=whole(text, "number of full steps"))
        return with_axis(machine, index, replace(axis, motor=motor))

    return edit


def whole(text: str, what: str) -> int:
    """Return a whole number; raises `ValueTextError` if it is none."""
    value = number(text, what, PLAIN)
    if value != value.to_integral_value():
        raise ValueTextError(Fault(what, f"“{text.strip()}” is no whole number.", "Type a whole number."))
    return int(value)


def _with_travel(machine: Machine, index: int, travel: tuple[Stage, ...]) -> Machine:
    return with_axis(machine, index, replace(machine.axes[index], travel=travel))


def stage_value(index: int, position: int, key: str, text: str) -> Edit:
    """Change a number of a travel stage: teeth are whole, pitch and lead decimal in mm, a ratio may be p/q."""

    def edit(machine: Machine) -> Machine:
        travel = machine.axes[index].travel
        stage = travel[position]
        value: Any
        if key == "ratio":
            value = text.strip()
        elif key in ("pitch", "lead"):
            value = number(text, key, {"mm": Decimal(1), "cm": Decimal(10), "in": Decimal("25.4")})
        else:
            value = whole(text, "number of teeth")
        change: dict[str, Any] = {key: value}
        changed: Any = replace(stage, **change)
        return _with_travel(machine, index, (*travel[:position], changed, *travel[position + 1 :]))

    return edit


NEW_STAGES: dict[str, Stage] = {
    "gear": Gear(driving=20, driven=40),
    "ratio": Ratio(ratio="2"),
    "belt": Belt(pitch=Decimal(2), teeth=20),
    "screw": Screw(lead=Decimal(8)),
}


def add_stage(index: int, kind: str) -> Edit:
    """Add a gear or ratio before the belt or screw, or at the end."""

    def edit(machine: Machine) -> Machine:
        travel = machine.axes[index].travel
        at = len(travel) - 1 if travel and isinstance(travel[-1], Belt | Screw) else len(travel)
        return _with_travel(machine, index, (*travel[:at], NEW_STAGES[kind], *travel[at:]))

    return edit


def remove_stage(index: int, position: int) -> Edit:
    """Take a stage out."""

    def edit(machine: Machine) -> Machine:
        travel = machine.axes[index].travel
        return _with_travel(machine, index, (*travel[:position], *travel[position + 1 :]))

    return edit


def move_stage(index: int, position: int, to: int) -> Edit:
    """Move a stage to another place of the chain."""

    def edit(machine: Machine) -> Machine:
        travel = list(machine.axes[index].travel)
        travel.insert(to, travel.pop(position))
        return _with_travel(machine, index, tuple(travel))

    return edit


def swap_last_stage(index: int) -> Edit:
    """Change the belt at the end for a screw, or the other way round."""

    def edit(machine: Machine) -> Machine:
        travel = machine.axes[index].travel
        other = NEW_STAGES["screw" if isinstance(travel[-1], Belt) else "belt"]
        return _with_travel(machine, index, (*travel[:-1], other))

    return edit


def _renamed_targets(routine: Routine, old: str, new: str | None) -> Routine:
    """Return a routine in which an axis has another name, or (None) is not named any more."""

    def renamed(targets: Any) -> Any:
        if not targets:
            return targets
        kept = {(new if k == old else k): v for k, v in targets.items() if k != old or new is not None}
        return kept or None

    blocks = []
    for block in routine.blocks:
        if isinstance(block, Move):
            block = replace(block, to=renamed(block.to), by=renamed(block.by))
            if not block.to and not block.by:
                continue
        blocks.append(block)
    return replace(routine, start=renamed(routine.start), blocks=tuple(blocks))


def rename_axis(index: int, name: str) -> Edit:
    """Give an axis another name, in the routines too."""

    def edit(machine: Machine) -> Machine:
        axis, new = machine.axes[index], name.strip()
        routines = tuple(_renamed_targets(r, axis.name, new) for r in machine.routines)
        axes = (*machine.axes[:index], replace(axis, name=new), *machine.axes[index + 1 :])
        return checked(replace(machine, axes=axes, routines=routines), routines=True)

    return edit


def delete_axis(index: int) -> Edit:
    """Take an axis out, and its targets out of the routines."""

    def edit(machine: Machine) -> Machine:
        name = machine.axes[index].name
        routines = tuple(_renamed_targets(r, name, None) for r in machine.routines)
        return replace(machine, axes=(*machine.axes[:index], *machine.axes[index + 1 :]), routines=routines)

    return edit


def move_axis(index: int, to: int) -> Edit:
    """Move an axis to another place of the rail."""

    def edit(machine: Machine) -> Machine:
        axes = list(machine.axes)
        axes.insert(to, axes.pop(index))
        return replace(machine, axes=tuple(axes))

    return edit


def rename_machine(name: str) -> Edit:
    """Give the machine another name, or none."""
    return lambda machine: checked(replace(machine, name=name.strip()))
