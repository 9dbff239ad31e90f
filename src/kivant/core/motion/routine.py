"""Routines: which exact positions a program of blocks commands, one row after the other. No time.

A row is what axes do at once: a rest, or a move that they begin and end together. Positions stand in columns, for each
axis at those rows only that name it.
"""

from __future__ import annotations

from array import array
from collections.abc import Callable, Mapping, Sequence
from decimal import Decimal
from fractions import Fraction
from functools import cached_property

import numpy as np

from kivant.core.machine.parts import Machine, Routine, start_of
from kivant.core.motion.blocks import Block, block_kind
from kivant.core.motion.blocks.kind import Targets
from kivant.core.motion.exact import Exact, exact
from kivant.core.motion.segment import Reals, Wholes
from kivant.core.path import Path

BLOCKS = Path.of("blocks")


def start_positions(machine: Machine, routine: Routine) -> tuple[Fraction, ...]:
    """Return where every axis begins: 0 unless the routine says otherwise; axis units."""
    start = start_of(routine)
    return tuple(Fraction(start.get(axis.name, 0)) for axis in machine.axes)


class AxisTargets:
    """What one axis is commanded: at which rows, the values, and whether they are relative."""

    def __init__(self, start: Decimal | int) -> None:
        self._keys = array("q")  # twice the row, and 1 more where it is relative
        self._values: list[Decimal | int] = [start]
        # There is one for every position of a long routine: no call of our own is made for each.
        self.add = (self._keys.append, self._values.append)

    @cached_property
    def rows(self) -> Wholes:
        """The rows that name the axis, ascending."""
        return np.array(self._keys, np.int64) >> 1

    @cached_property
    def positions(self) -> Exact:
        """The exact commanded positions: where the axis begins, and after each of its rows; axis units."""
        values = exact(self._values)
        relative = np.zeros(len(values.numerators), np.bool_)
        relative[1:] = np.array(self._keys, np.int64) & 1
        if not relative.any():
            return values
        ways = Exact(np.where(relative, values.numerators, 0), values.denominator).sums().numerators
        # A relative target counts from the last absolute one, and all ways since.
        since = np.maximum.accumulate(np.where(relative, 0, np.arange(len(relative))))
        return Exact(values.numerators[since] + ways - ways[since], values.denominator)

    def position(self, row: int) -> Fraction:
        """Return the exact commanded position before a row, in axis units."""
        return self.positions.at(int(np.searchsorted(self.rows, row)))


class Places:
    """Of which block each row is, and where that stands in the routine."""

    def __init__(self) -> None:
        self.blocks: list[Block] = []
        self.parents: list[Path] = []
        self.indices = array("q")

    def path(self, row: int) -> Path:
        """Return the path from the routine to the block of a row."""
        return self.parents[row] / self.indices[row]


class Commands:
    """The rows of a routine: their places, how long they rest, and what each axis is commanded."""

    def __init__(self, names: Sequence[str], starts: Sequence[Decimal | int]) -> None:
        self.names, self.places = names, Places()
        self.axes = [AxisTargets(start) for start in starts]
        self._add = {name: axis.add for name, axis in zip(names, self.axes, strict=True)}
        self._rests: dict[int, float] = {}
        self._factors: dict[int, float] = {}

    def _row(self, block: Block, parent: Path, index: int) -> int:
        places = self.places
        row = len(places.blocks)
        places.blocks.append(block)
        places.parents.append(parent)
        places.indices.append(index)
        return row

    def rest(self, block: Block, parent: Path, index: int, seconds: float) -> None:
        """Let all axes rest for so many seconds."""
        self._rests[self._row(block, parent, index)] = seconds

    def move(
        self, block: Block, parent: Path, index: int, to: Targets | None, by: Targets | None, speed_factor: float
    ) -> None:
        """Move axes straight and together."""
        row, added = self._row(block, parent, index), self._add
        if speed_factor != 1.0:
            self._factors[row] = speed_factor
        for key, targets in ((2 * row, to), (2 * row + 1, by)):
            if targets:
                for name, value in targets.items():
                    add_key, add_value = added[name]
                    add_key(key)
                    add_value(value)

    def positions(self, row: int) -> tuple[Fraction, ...]:
        """Return the exact commanded positions before a row, in axis units; one row on, those after it."""
        return tuple(axis.position(row) for axis in self.axes)

    @property
    def seconds(self) -> Reals:
        """How long each row rests, 0 where it moves."""
        return _sparse(self._rests, 0.0, len(self.places.blocks))

    @property
    def factors(self) -> Reals:
        """By how much the wished speeds of each row are scaled."""
        return _sparse(self._factors, 1.0, len(self.places.blocks))


def _sparse(known: Mapping[int, float], other: float, count: int) -> Reals:
    found = np.full(count, other)
    found[list(known)] = list(known.values())
    return found


def commands(machine: Machine, routine: Routine, checkpoint: Callable[[], None] = lambda: None) -> Commands:
    """Return what a routine commands.

    `checkpoint` is called before every block; what it raises ends the work.
    """
    start = start_of(routine)
    names = [axis.name for axis in machine.axes]
    found = Commands(names, [start.get(name, 0) for name in names])
    for index, block in enumerate(routine.blocks):
        checkpoint()
        block_kind(block).lay(block, BLOCKS, index, found)
    return found


def find_block(routine: Routine, path: Path) -> Block:
    """Return the block at a path of the routine.

    Raises
    ------
    LookupError, AttributeError
        If there is none.
    """
    found: Block = path.look_up(routine)
    return found


def block_number(path: Path) -> str:
    """Return the place of a block as a person counts it: ``3``, or ``3.1`` for the first inside the third."""
    return ".".join(str(part + 1) for part in path if isinstance(part, int))
