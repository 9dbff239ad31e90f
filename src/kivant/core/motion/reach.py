"""Reach: which positions of a routine lie beyond the limits of their axes."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction
from typing import Literal

from kivant.core.machine.parts import Machine, Routine, start_of
from kivant.core.motion.blocks import block_kind
from kivant.core.motion.routine import Commands, commands, start_positions
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
    begin = start_positions(machine, routine)
    for name in start_of(routine):
        yield from _beyond(Path.of("start", name), index_of[name], begin, ends)
    rows: set[int] = set()
    for targets, (low, high) in zip(found.axes, ends, strict=True):
        if low is not None or high is not None:
            rows |= {*targets.rows_beyond(-_FAR if low is None else low, _FAR if high is None else high)}
    for row in sorted(rows):
        after, block = found.positions(row + 1), found.places.blocks[row]
        for inner, name in block_kind(block).mentions(block):
            yield from _beyond(found.places.path(row) / inner, index_of[name], after, ends)


def _beyond(
    path: Path, axis: int, positions: Sequence[Fraction], ends: Sequence[tuple[Decimal | None, Decimal | None]]
) -> Iterator[Beyond]:
    position, (low, high) = positions[axis], ends[axis]
    if high is not None and position > Fraction(high):
        yield Beyond(path, axis, position, "max", Fraction(high))
    elif low is not None and position < Fraction(low):
        yield Beyond(path, axis, position, "min", Fraction(low))


def beyond_words(machine: Machine, found: Beyond) -> tuple[str, str]:
    """Return what to say of a position beyond a limit, and what to do about it."""
    axis, bound = machine.axes[found.axis], f"{float(found.bound):.6g}"
    message = f"{axis.name} would go to {float(found.position):.6g} {axis.unit}, beyond its {found.side} of {bound}."
    change = axis_path(found.axis, "limits", found.side)
    return message, f"Stay within {found.side} {bound} {axis.unit}, or change {change}."
