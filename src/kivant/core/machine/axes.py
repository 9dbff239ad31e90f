"""Edits of whole axes: new ones on free lines, copies, other names and places, and taking them away."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from fractions import Fraction
from types import MappingProxyType

from msgspec.structs import replace

from kivant.core.drive.drivers import DRIVERS, DriverKind, board_lines
from kivant.core.geometry import Geometry, geometry_kind
from kivant.core.machine.check import checked
from kivant.core.machine.edits import Edit
from kivant.core.machine.lines import free_lines, wired, with_lines
from kivant.core.machine.parts import Axis, Limits, Machine, Motor, Routine
from kivant.core.motion.blocks import Block, Move, Pause, renamed_in
from kivant.core.motion.blocks.kind import renamed_values
from kivant.core.quantity import as_decimal
from kivant.core.travel.stages import STAGES


def as_written(machine: Machine) -> Machine:
    """Return the machine with axes that go to the very positions they are told, and do not wrap."""
    axes = tuple(replace(a, limits=replace(a.limits, wrap=None)) if a.limits.wrap else a for a in machine.axes)
    return replace(machine, axes=axes) if axes != machine.axes else machine


def free_name(taken: Iterable[str], wanted: str) -> str:
    """Return a name like the one wanted that is not taken."""
    names, name, count = set(taken), wanted, 2
    while name in names:
        name, count = f"{wanted} {count}", count + 1
    return name


def _rewired(machine: Machine, axis: Axis) -> tuple[Machine, Axis]:
    """Return the axis on free board lines, and the machine with lines added where too few were free."""
    keys = list(board_lines(axis.driver))
    machine = with_lines(machine, len(keys))
    return machine, wired(axis, dict(zip(keys, free_lines(machine), strict=False)))


def _new(kind: DriverKind, *, slides: bool) -> Axis:
    return Axis(
        name="Axis",
        unit="mm" if slides else "deg",
        motor=Motor(winding=kind.winding, full_steps_per_rev=200),
        driver=kind.new,
        travel=(STAGES["screw"].new,) if slides else (),
        limits=Limits(speed=10.0, acceleration=50.0, deceleration=50.0)
        if slides
        else Limits(speed=90.0, acceleration=360.0, deceleration=360.0),
    )


def new_axes() -> MappingProxyType[str, Axis]:
    """Return what a new axis of each kind is until its figures are typed, by the words it is offered with.

    It has a common motor, no gears, and a screw where it slides.
    """
    order = sorted(DRIVERS.values(), key=lambda kind: kind.winding)  # drivers that take pulses are the commoner
    return MappingProxyType(
        {
            f"{'Sliding' if slides else 'Turning'}, {kind.name}": _new(kind, slides=slides)
            for slides in (False, True)
            for kind in order
        }
    )


def add_axis(kind: str) -> Edit:
    """Add an axis of a kind of `new_axes` at the end, on free board lines (and new ones, where too few are free)."""

    def edit(machine: Machine) -> Machine:
        new = new_axes()[kind]
        name = free_name((axis.name for axis in machine.axes), new.name)
        machine, made = _rewired(machine, replace(new, name=name))
        return checked(replace(machine, axes=(*machine.axes, made)))

    return edit


def duplicate_axis(index: int) -> Edit:
    """Add an axis like this one behind it, on free board lines."""

    def edit(machine: Machine) -> Machine:
        axis = machine.axes[index]
        name = free_name((axis.name for axis in machine.axes), axis.name)[:80]
        machine, copy = _rewired(machine, replace(axis, name=name))
        return checked(replace(machine, axes=(*machine.axes[: index + 1], copy, *machine.axes[index + 1 :])))

    return edit


def _renamed(routine: Routine, old: str, new: str | None) -> Routine:
    """Return a routine in which an axis has another name, or (None) is not named any more."""
    blocks = renamed_in(routine.blocks, "axis", old, new)
    return replace(routine, start=renamed_values(routine.start, old, new), blocks=blocks)


def _named_otherwise(machine: Machine, old: str, new: str | None) -> Machine:
    """Return the machine with the axis renamed, or taken out, in its poses and routines; a pose of nothing is gone."""
    routines = tuple(_renamed(routine, old, new) for routine in machine.routines)
    machine = replace(machine, geometry=_geometry_renamed(machine.geometry, old, new))
    if machine.poses is None:
        return replace(machine, routines=routines)
    at = [(pose, renamed_values(pose.at, old, new)) for pose in machine.poses]
    for pose, kept in at:
        if not kept:
            routines = tuple(replace(r, blocks=renamed_in(r.blocks, "pose", pose.name, None)) for r in routines)
    poses = tuple(replace(pose, at=kept) for pose, kept in at if kept)
    return replace(machine, poses=poses or None, routines=routines)


def _geometry_renamed(geometry: Geometry | None, old: str, new: str | None) -> Geometry | None:
    """Return the geometry with an axis renamed; without the axis it is none, unless it can do without."""
    if geometry is None:
        return None
    changes: dict[str, str | None] = {}
    for role in geometry_kind(geometry).roles:
        if getattr(geometry.axes, role.key) == old:
            if new is None and not role.optional:
                return None
            changes[role.key] = new
    return replace(geometry, axes=replace(geometry.axes, **changes)) if changes else geometry


def rename_axis(index: int, name: str) -> Edit:
    """Give an axis another name, in the routines too."""

    def edit(machine: Machine) -> Machine:
        axis, new = machine.axes[index], name.strip()
        axes = (*machine.axes[:index], replace(axis, name=new), *machine.axes[index + 1 :])
        # Before the rest: an empty name would take the axis out of it.
        checked(replace(machine, axes=axes, poses=None, geometry=None))
        return checked(replace(_named_otherwise(machine, axis.name, new), axes=axes), routines=True)

    return edit


def visit_places(index: int, positions: Sequence[Fraction], pause_s: float = 0.5) -> Edit:
    """Add a routine in which an axis goes to one place after the other, and pauses there."""

    def edit(machine: Machine) -> Machine:
        axis = machine.axes[index]
        name = free_name((routine.name for routine in machine.routines), f"{axis.name[:50]}: {len(positions)} places")
        blocks: list[Block] = []
        for position in positions:
            blocks += [Move(to={axis.name: as_decimal(position)}), Pause(seconds=pause_s)]
        routine = Routine(name=name, blocks=tuple(blocks))
        return checked(replace(machine, routines=(*machine.routines, routine)), routines=True)

    return edit


def delete_axis(index: int) -> Edit:
    """Remove an axis, and its targets from the routines."""

    def edit(machine: Machine) -> Machine:
        name = machine.axes[index].name
        axes = (*machine.axes[:index], *machine.axes[index + 1 :])
        made = replace(_named_otherwise(machine, name, None), axes=axes)
        return checked(made, routines=made.geometry != machine.geometry)

    return edit


def move_axis(index: int, to: int) -> Edit:
    """Move an axis to another place."""

    def edit(machine: Machine) -> Machine:
        axes = list(machine.axes)
        axes.insert(to, axes.pop(index))
        return replace(machine, axes=tuple(axes))

    return edit
