"""Reach: which positions of a routine lie beyond the limits of their axes."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from typing import Literal

from kivant.core.machine.parts import Axis, Machine, Routine, start_of
from kivant.core.motion.blocks import block_kind
from kivant.core.motion.routine import start_positions, walk
from kivant.core.path import Path, axis_path


@dataclass(frozen=True, slots=True)
class Beyond:
    """A position beyond a limit; `path` leads from the routine to what commands it. Axis units."""

    path: Path
    axis: int
    position: Fraction
    side: Literal["min", "max"]
    bound: Fraction


def beyond_limits(
    machine: Machine, routine: Routine, checkpoint: Callable[[], None] = lambda: None
) -> Iterator[Beyond]:
    """Yield every commanded position of `routine` beyond an axis's limits.

    `checkpoint` is called before every block; what it raises ends the search.
    """
    index_of = {axis.name: i for i, axis in enumerate(machine.axes)}
    ends = [_ends(axis) for axis in machine.axes]
    bounded = [i for i, (low, high) in enumerate(ends) if low is not None or high is not None]
    starts = start_positions(machine, routine)
    for name in start_of(routine):
        found = _beyond(Path(("start", name)), index_of[name], starts[index_of[name]], ends)
        if found is not None:
            yield found
    for commanded in walk(machine, routine):
        checkpoint()
        if not any(_side(commanded.after[i], ends[i]) for i in bounded):
            continue
        for inner, name in block_kind(commanded.block).mentions(commanded.block):
            i = index_of[name]
            found = _beyond(commanded.path / inner, i, commanded.after[i], ends)
            if found is not None:
                yield found


def beyond_words(machine: Machine, found: Beyond) -> tuple[str, str]:
    """Return what to say of a position beyond a limit, and what to do about it."""
    axis, bound = machine.axes[found.axis], f"{float(found.bound):.6g}"
    message = f"{axis.name} would go to {float(found.position):.6g} {axis.unit}, beyond its {found.side} of {bound}."
    change = axis_path(found.axis, "limits", found.side)
    return message, f"Stay within {found.side} {bound} {axis.unit}, or change {change}."


Ends = tuple[Fraction | None, Fraction | None]


def _ends(axis: Axis) -> Ends:
    low, high = axis.limits.min, axis.limits.max
    return None if low is None else Fraction(low), None if high is None else Fraction(high)


def _side(position: Fraction, ends: Ends) -> Literal["min", "max"] | None:
    low, high = ends
    if high is not None and position > high:
        return "max"
    return "min" if low is not None and position < low else None


def _beyond(path: Path, axis: int, position: Fraction, ends: list[Ends]) -> Beyond | None:
    side = _side(position, ends[axis])
    bound = ends[axis][side == "max"]
    return Beyond(path, axis, position, side, bound) if side is not None and bound is not None else None
