"""Rules of a machine's geometry: axes that exist, that are of the right unit, and each in one part only."""

from __future__ import annotations

from collections.abc import Iterator

from kivant.core.errors import Fault
from kivant.core.geometry import geometry_kind
from kivant.core.machine.parts import Machine
from kivant.core.machine.program_rules import known
from kivant.core.path import Path


def broken_rules_of_geometry(machine: Machine) -> Iterator[Fault]:
    """Yield what is wrong with the geometry of a machine."""
    geometry = machine.geometry
    if geometry is None:
        return
    kind, place = geometry_kind(geometry), Path.of("geometry")
    yield from kind.faults(geometry, place)
    axes, seen = {axis.name: axis for axis in machine.axes}, set()
    for role in kind.roles:
        name, where = getattr(geometry.axes, role.key), place / "axes" / role.key
        if name is None:
            continue
        if name not in axes:
            yield Fault(where, f"There is no axis “{name}”.", f"Use one of {known(sorted(axes))}.")
        elif axes[name].unit != role.unit:
            message = f"{name} is in {axes[name].unit}; what {role.words} is in {role.unit}."
            yield Fault(where, message, "Use another axis, or set its unit at Travel.")
        if name in seen:
            yield Fault(where, f"{name} has two parts in the geometry.", "Use each axis once.")
        seen.add(name)
