"""Reach: which positions of a routine lie beyond the limits of their axes."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from decimal import Decimal
from fractions import Fraction
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from kivant.core.machine.parts import Machine, Routine, start_of
from kivant.core.motion.blocks import block_kind
from kivant.core.motion.routine import Commands, commands
from kivant.core.motion.spins import RowFault
from kivant.core.path import Path

_FAR = Decimal("inf")


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


def beyond_limits(machine: Machine, routine: Routine, commanded: Commands | None = None) -> Iterator[Beyond]:
    """Yield every commanded position of `routine` beyond an axis's limits; `commanded`, if that is known already."""
    found = commanded if commanded is not None else commands(machine, routine)
    ends = [(axis.limits.min, axis.limits.max) for axis in machine.axes]
    index_of = [axis.name for axis in machine.axes].index
    for name, start in start_of(routine).items():
        yield from _beyond(Path.of("start", name), index_of(name), start, ends)
    rows: dict[int, dict[int, Decimal]] = {}
    for axis, (targets, (low, high)) in enumerate(zip(found.axes, ends, strict=True)):
        if low is not None or high is not None:
            for row, position in targets.beyond(-_FAR if low is None else low, _FAR if high is None else high):
                rows.setdefault(row, {}).setdefault(axis, position)
    told: set[tuple[int, int]] = set()  # of a block that is repeated, only the first turn in which it is so
    for row in sorted(rows):
        entry, block = found.places.of[row], found.places.block(row)
        inner = {index_of(name): path for path, name in block_kind(block).mentions(block)}
        order = [*(axis for axis in inner if axis in rows[row]), *(axis for axis in rows[row] if axis not in inner)]
        for axis in order:
            if (entry, axis) not in told:
                told.add((entry, axis))
                within = Path() if found.places.is_called(row) else inner.get(axis, Path())
                turn = found.places.turn(row)
                for one in _beyond(found.places.path(row) / within, axis, rows[row][axis], ends):
                    yield replace(one, turn=turn)


def _beyond(
    path: Path, axis: int, position: Decimal, ends: Sequence[tuple[Decimal | None, Decimal | None]]
) -> Iterator[Beyond]:
    low, high = ends[axis]
    if high is not None and position > high:
        yield Beyond(path, axis, Fraction(position), "max", Fraction(high))
    elif low is not None and position < low:
        yield Beyond(path, axis, Fraction(position), "min", Fraction(low))


def beyond_words(machine: Machine, found: Beyond) -> tuple[str, str]:
    """Return what to say of a position beyond a limit, and what to do about it."""
    axis, bound = machine.axes[found.axis], f"{float(found.bound):.6g}"
    when = f" in turn {found.turn}" if found.turn > 1 else ""
    where = f"{float(found.position):.6g} {axis.unit}{when}"
    message = f"{axis.name} would go to {where}, beyond its {found.side} of {bound}."
    if found.side == "max":
        return message, f"Go to {bound} {axis.unit} at most, or raise {axis.name}'s greatest position."
    return message, f"Go to {bound} {axis.unit} at least, or lower {axis.name}'s least position."
