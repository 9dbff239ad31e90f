"""Edits of a machine's geometry: its kind, which axis has which part, its lengths, and the limits of its tool."""

from __future__ import annotations

from typing import Any, get_type_hints

from msgspec.structs import replace

from kivant.core import quantity
from kivant.core.errors import Fault
from kivant.core.geometry import GEOMETRIES, Geometry, TwoLink, geometry_kind
from kivant.core.machine.check import MachineError, checked
from kivant.core.machine.edits import Edit
from kivant.core.machine.parts import Machine
from kivant.core.path import Path

_PLACE = Path.of("geometry")
_LENGTHS = (120.0, 100.0)  # of a new arm, mm


def _with(machine: Machine, geometry: Geometry | None) -> Machine:
    """Return the machine with a geometry; blocks may move its tool, and are looked at, too."""
    return checked(replace(machine, geometry=geometry), routines=True)


def choose_geometry(kind: str) -> Edit:
    """Give the machine a geometry of a kind, its parts taken by the first axes of the right unit.

    Raises (the edit) MachineError if there are too few of them, or blocks move a tool that is not there any more.
    """

    def edit(machine: Machine) -> Machine:
        record = GEOMETRIES[kind]
        if not record.roles:
            return _with(machine, None)
        free, roles = list(machine.axes), {}
        for role in record.roles:
            axis = next((axis for axis in free if axis.unit == role.unit), None)
            if axis is not None:
                roles[role.key] = axis.name
                free.remove(axis)
            elif not role.optional:
                message = f"{record.title} needs an axis in {role.unit} that {role.words}."
                raise MachineError(Fault(_PLACE / "axes" / role.key, message, "Add one at the left."))
        made: Any = record.type
        axes = get_type_hints(record.type)["axes"](**roles)
        return _with(machine, made(axes=axes, lengths_mm=_LENGTHS) if record.type is TwoLink else made(axes=axes))

    return edit


def _own(machine: Machine) -> Any:
    if machine.geometry is None:
        raise MachineError(Fault(_PLACE, "The machine has no geometry.", "Choose one first."))
    return machine.geometry


def choose_role(role: str, name: str | None) -> Edit:
    """Give a part of the geometry to an axis; one that had another part swaps with it."""

    def edit(machine: Machine) -> Machine:
        geometry = _own(machine)
        before = getattr(geometry.axes, role)
        changes: dict[str, str | None] = {role: name}
        for other in geometry_kind(geometry).roles:
            if other.key != role and name is not None and getattr(geometry.axes, other.key) == name:
                changes[other.key] = before
        return _with(machine, replace(geometry, axes=replace(geometry.axes, **changes)))

    return edit


def choose_elbow(side: str) -> Edit:
    """Let the elbow lie on the other side of the line from shoulder to tool."""
    return lambda machine: _with(machine, replace(_own(machine), elbow=side))


def typed_length(index: int, text: str) -> Edit:
    """Take a typed length of a link."""

    def edit(machine: Machine) -> Machine:
        geometry = _own(machine)
        lengths = list(geometry.lengths_mm)
        lengths[index] = float(quantity.length().parse(text))
        return _with(machine, replace(geometry, lengths_mm=tuple(lengths)))

    return edit


def typed_tool_limit(key: str, text: str) -> Edit:
    """Take a typed limit of the tool, ``tool_speed`` or ``tool_acceleration``; an empty text: none."""

    def edit(machine: Machine) -> Machine:
        value = float(quantity.tool_rate().parse(text)) if text.strip() else None
        return _with(machine, replace(_own(machine), **{key: value}))

    return edit
