"""Reach: which positions of a routine lie beyond the limits of their axes."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from typing import Literal

from kivant.core.machine.parts import Axis, Machine, Routine, start_of
from kivant.core.motion.blocks import Commanded, block_kind
from kivant.core.motion.routine import start_positions, walk
from kivant.core.path import Path, axis_path

Ends = tuple[Fraction | None, Fraction | None]


@dataclass(frozen=True, slots=True)
class Beyond:
    """A position beyond a limit; `path` leads from the routine to what commands it. Axis units."""

    path: Path
    axis: int
    position: Fraction
    side: Literal["min", "max"]
    bound: Fraction


class Reach:
    """The ends of every axis of a machine, to hold commanded positions against."""

    def __init__(self, machine: Machine) -> None:
        self._index_of = {axis.name: i for i, axis in enumerate(machine.axes)}
        self._ends = [_ends(axis) for axis in machine.axes]
        self._bounded = [(i, ends) for i, ends in enumerate(self._ends) if ends != (None, None)]

    def starts(self, routine: Routine, starts: Sequence[Fraction]) -> list[Beyond]:
        """Return where a routine begins beyond a limit; `starts` are its positions, in axis units."""
        named = ((Path(("start", name)), self._index_of[name]) for name in start_of(routine))
        return [found for path, i in named if (found := self._beyond(path, i, starts[i]))]

    def beyond(self, commanded: Commanded) -> list[Beyond]:
        """Return which positions that a block commands lie beyond a limit."""
        after = commanded.after
        if not any(_side(after[i], ends) for i, ends in self._bounded):
            return []
        mentioned = block_kind(commanded.block).mentions(commanded.block)
        named = ((commanded.path / inner, self._index_of[name]) for inner, name in mentioned)
        return [found for path, i in named if (found := self._beyond(path, i, after[i]))]

    def _beyond(self, path: Path, axis: int, position: Fraction) -> Beyond | None:
        side = _side(position, self._ends[axis])
        bound = self._ends[axis][side == "max"]
        return Beyond(path, axis, position, side, bound) if side is not None and bound is not None else None


def beyond_limits(
    machine: Machine, routine: Routine, checkpoint: Callable[[], None] = lambda: None
) -> Iterator[Beyond]:
    """Yield every commanded position of `routine` beyond an axis's limits.

    `checkpoint` is called before every block; what it raises ends the search.
    """
    reach = Reach(machine)
    yield from reach.starts(routine, start_positions(machine, routine))
    for commanded in walk(machine, routine):
        checkpoint()
        yield from reach.beyond(commanded)


def beyond_words(machine: Machine, found: Beyond) -> tuple[str, str]:
    """Return what to say of a position beyond a limit, and what to do about it."""
    axis, bound = machine.axes[found.axis], f"{float(found.bound):.6g}"
    message = f"{axis.name} would go to {float(found.position):.6g} {axis.unit}, beyond its {found.side} of {bound}."
    change = axis_path(found.axis, "limits", found.side)
    return message, f"Stay within {found.side} {bound} {axis.unit}, or change {change}."


def _ends(axis: Axis) -> Ends:
    low, high = axis.limits.min, axis.limits.max
    return None if low is None else Fraction(low), None if high is None else Fraction(high)


def _side(position: Fraction, ends: Ends) -> Literal["min", "max"] | None:
    low, high = ends
    if high is not None and position > high:
        return "max"
    return "min" if low is not None and position < low else None
