"""Edits of whole axes: new ones on free lines, copies, other names and places, and taking them away."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace
from fractions import Fraction
from types import MappingProxyType

from kivant.core.drive.drivers import DRIVERS, DriverKind, board_lines
from kivant.core.machine.check import checked
from kivant.core.machine.edits import Edit
from kivant.core.machine.lines import free_lines, wired, with_lines
from kivant.core.machine.parts import Axis, Limits, Machine, Motor, Routine
from kivant.core.motion.blocks import Block, Move, Pause, block_kind
from kivant.core.motion.blocks.move import renamed_targets
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
    blocks = (block_kind(block).renamed(block, old, new) for block in routine.blocks)
    kept = tuple(block for block in blocks if block is not None)
    return replace(routine, start=renamed_targets(routine.start, old, new), blocks=kept)


def rename_axis(index: int, name: str) -> Edit:
    """Give an axis another name, in the routines too."""

    def edit(machine: Machine) -> Machine:
        axis, new = machine.axes[index], name.strip()
        routines = tuple(_renamed(r, axis.name, new) for r in machine.routines)
        axes = (*machine.axes[:index], replace(axis, name=new), *machine.axes[index + 1 :])
        checked(replace(machine, axes=axes))  # before the routines: an empty name takes an axis out of them
        return checked(replace(machine, axes=axes, routines=routines), routines=True)

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
        routines = tuple(_renamed(r, name, None) for r in machine.routines)
        return replace(machine, axes=(*machine.axes[:index], *machine.axes[index + 1 :]), routines=routines)

    return edit


def move_axis(index: int, to: int) -> Edit:
    """Move an axis to another place."""

    def edit(machine: Machine) -> Machine:
        axes = list(machine.axes)
        axes.insert(to, axes.pop(index))
        return replace(machine, axes=tuple(axes))

    return edit
