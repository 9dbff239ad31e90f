"""Edits of poses: kept, renamed, changed and deleted; blocks go to them by name."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal
from fractions import Fraction

from msgspec.structs import replace

from kivant.core.errors import Fault
from kivant.core.machine.axes import free_name
from kivant.core.machine.check import MachineError, checked
from kivant.core.machine.edits import Edit
from kivant.core.machine.parts import Axis, Machine, Pose
from kivant.core.motion.blocks import block_kind, renamed_in, walk
from kivant.core.path import Path
from kivant.core.travel.conversion import steps_per_unit

_GRAIN = Decimal("1e-6")  # of an axis unit, to which a place is kept


def pose_path(index: int, *inner: str | int) -> Path:
    """Return the path of a pose, or of something in it."""
    return Path(("poses", index, *inner))


def users_of(machine: Machine, name: str) -> list[str]:
    """Return the routines in which blocks go to a pose."""
    return [
        routine.name
        for routine in machine.routines
        if any(
            what == "pose" and used == name
            for _path, block in walk(routine.blocks, Path())
            for _inner, what, used in block_kind(block).refers(block)
        )
    ]


def kept_place(axis: Axis, place: float) -> Decimal:
    """Return where an axis stands as it is written down; a counted step that is just beyond a limit is at the limit."""
    written = Decimal(repr(place)).quantize(_GRAIN)
    low, high = axis.limits.min, axis.limits.max
    within = written if low is None else max(written, low)
    within = within if high is None else min(within, high)
    near = Fraction(abs(within - written)) * abs(steps_per_unit(axis)) <= 1
    return (within if near else written).normalize() + 0


def keep_pose(name: str, at: Mapping[str, Decimal]) -> Edit:
    """Add a pose; where its name is taken, a number is added to it."""

    def edit(machine: Machine) -> Machine:
        poses = machine.poses or ()
        free = free_name((pose.name for pose in poses), name.strip() or "Pose")[:80]
        return checked(replace(machine, poses=(*poses, Pose(name=free, at=dict(at)))))

    return edit


def _with_pose(machine: Machine, index: int, pose: Pose) -> Machine:
    poses = machine.poses or ()
    return checked(replace(machine, poses=(*poses[:index], pose, *poses[index + 1 :])))


def move_pose(index: int, at: Mapping[str, Decimal]) -> Edit:
    """Give a pose other positions: every block that goes to it goes there."""
    return lambda machine: _with_pose(machine, index, replace((machine.poses or ())[index], at=dict(at)))


def rename_pose(index: int, name: str) -> Edit:
    """Give a pose another name, in all blocks too."""

    def edit(machine: Machine) -> Machine:
        old, new = (machine.poses or ())[index], name.strip()
        if not new:
            raise MachineError(Fault(pose_path(index, "name"), "A pose needs a name.", "Type one."))
        machine = _with_pose(machine, index, replace(old, name=new))
        routines = tuple(replace(r, blocks=renamed_in(r.blocks, "pose", old.name, new)) for r in machine.routines)
        return replace(machine, routines=routines)

    return edit


def delete_pose(index: int) -> Edit:
    """Take a pose out of the machine.

    Raises (the edit) MachineError if a block goes to it.
    """

    def edit(machine: Machine) -> Machine:
        poses = machine.poses or ()
        used = users_of(machine, poses[index].name)
        if used:
            message = f"Blocks of {', '.join(f'“{name}”' for name in used[:5])} go to the pose “{poses[index].name}”."
            raise MachineError(Fault(pose_path(index), message, "Change or remove those blocks first."))
        return replace(machine, poses=(*poses[:index], *poses[index + 1 :]) or None)

    return edit
