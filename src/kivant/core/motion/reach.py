"""Reach: which positions of a routine lie beyond the limits of their axes."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from decimal import Decimal
from fractions import Fraction
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from kivant.core.machine.parts import Limits, Machine, Routine, start_of
from kivant.core.motion.blocks import block_kind
from kivant.core.motion.commanded import Commands
from kivant.core.motion.spins import RowFault
from kivant.core.path import Path


class Beyond(Struct, frozen=True):
    """A position beyond a limit; `path` leads from the routine to what commands it, in turn `turn`. Axis units."""

    path: Path
    axis: int
    position: Fraction
    side: Literal["min", "max"]
    bound: Fraction
    turn: int = 1


def row_faults(commanded: Commands, faults: Sequence[RowFault]) -> Iterator[tuple[Path, str, str]]:
    """Yield what forbids rows, once for each block: the path from the routine to it, what is wrong, and what to do."""
    places, told = commanded.places, set()
    for fault in faults:
        path = places.path(fault.row) / (Path() if places.is_called(fault.row) else fault.inner)
        if path not in told:
            told.add(path)
            yield path, fault.message, fault.remedy


def beyond_limits(machine: Machine, routine: Routine, commanded: Commands) -> Iterator[Beyond]:
    """Yield every position that `routine` commands beyond an axis's limits."""
    rows: dict[int, dict[int, Decimal]] = {}
    for index, axis in enumerate(machine.axes):
        if axis.name in start_of(routine):
            yield from _beyond(Path.of("start", axis.name), index, axis.limits, start_of(routine)[axis.name])
        if axis.limits.min is not None or axis.limits.max is not None:
            for row, position in commanded.axes[index].beyond(axis.limits.min, axis.limits.max):
                rows.setdefault(row, {}).setdefault(index, position)
    told: set[tuple[int, int]] = set()  # of a block that is repeated, only the first turn in which it is so
    for row in sorted(rows):
        places, names = commanded.places, [axis.name for axis in machine.axes]
        entry, block = places.of[row], places.block(row)
        inner = {names.index(name): path for path, name in block_kind(block).mentions(block)}
        order = [*(index for index in inner if index in rows[row]), *(own for own in rows[row] if own not in inner)]
        for index in order:
            if (entry, index) not in told:
                told.add((entry, index))
                path = places.path(row) / (Path() if places.is_called(row) else inner.get(index, Path()))
                for one in _beyond(path, index, machine.axes[index].limits, rows[row][index]):
                    yield replace(one, turn=places.turn(row))


def _beyond(path: Path, axis: int, limits: Limits, position: Decimal) -> Iterator[Beyond]:
    if limits.max is not None and position > limits.max:
        yield Beyond(path, axis, Fraction(position), "max", Fraction(limits.max))
    elif limits.min is not None and position < limits.min:
        yield Beyond(path, axis, Fraction(position), "min", Fraction(limits.min))


def beyond_words(machine: Machine, found: Beyond) -> tuple[str, str]:
    """Return what to say of a position beyond a limit, and what to do about it."""
    axis, bound = machine.axes[found.axis], f"{float(found.bound):.6g}"
    when = f" in turn {found.turn}" if found.turn > 1 else ""
    where = f"{float(found.position):.6g} {axis.unit}{when}"
    go = "begin at" if found.path.below("start") is not None else "go to"
    message = f"{axis.name} would {go} {where}, beyond its {found.side} of {bound}."
    if found.side == "max":
        return message, f"{go.capitalize()} {bound} {axis.unit} at most, or raise {axis.name}'s greatest position."
    return message, f"{go.capitalize()} {bound} {axis.unit} at least, or lower {axis.name}'s least position."
