"""Reach: which positions of a routine lie beyond the limits of their axes."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction
from typing import Literal

from kivant.core.machine.parts import Machine, Routine, start_of
from kivant.core.motion.blocks import block_kind
from kivant.core.motion.routine import Commands, commands
from kivant.core.path import Path, axis_path

_FAR = Decimal("inf")


@dataclass(frozen=True, slots=True)
class Beyond:
    """A position beyond a limit; `path` leads from the routine to what commands it. Axis units."""

    path: Path
    axis: int
    position: Fraction
    side: Literal["min", "max"]
    bound: Fraction


def beyond_limits(machine: Machine, routine: Routine, commanded: Commands | None = None) -> Iterator[Beyond]:
    """Yield every commanded position of `routine` beyond an axis's limits; `commanded`, if that is known already."""
    found = commanded if commanded is not None else commands(machine, routine)
    index_of = {axis.name: i for i, axis in enumerate(machine.axes)}
    ends = [(axis.limits.min, axis.limits.max) for axis in machine.axes]
    starts = start_of(routine)
    for name in starts:
        yield from _beyond(Path.of("start", name), index_of[name], starts[name], ends)
    rows: dict[int, dict[int, Decimal]] = {}
    for axis, (targets, (low, high)) in enumerate(zip(found.axes, ends, strict=True)):
        if low is not None or high is not None:
            for row, position in targets.beyond(-_FAR if low is None else low, _FAR if high is None else high):
                rows.setdefault(row, {})[axis] = position
    for row in sorted(rows):
        for inner, name in block_kind(found.places.blocks[row]).mentions(found.places.blocks[row]):
            if (axis := index_of[name]) in rows[row]:
                yield from _beyond(found.places.path(row) / inner, axis, rows[row][axis], ends)


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
    message = f"{axis.name} would go to {float(found.position):.6g} {axis.unit}, beyond its {found.side} of {bound}."
    change = axis_path(found.axis, "limits", found.side)
    return message, f"Stay within {found.side} {bound} {axis.unit}, or change {change}."
