"""Routines: which exact positions a program of blocks commands, one row after the other. No time.

A row is what axes do at once: a rest, or a move that they begin and end together. Targets are kept for each axis, at
those rows only that name it.
"""

from __future__ import annotations

from array import array
from bisect import bisect_left
from collections.abc import Callable, Sequence
from decimal import Decimal, localcontext
from fractions import Fraction
from itertools import islice

from kivant.core.fields import EXACT_DIGITS
from kivant.core.machine.parts import Machine, Routine, start_of
from kivant.core.motion.blocks import Block, block_kind
from kivant.core.motion.blocks.kind import Targets
from kivant.core.path import Path

BLOCKS = Path.of("blocks")


def start_positions(machine: Machine, routine: Routine) -> tuple[Fraction, ...]:
    """Return where every axis begins: 0 unless the routine says otherwise; axis units."""
    start = start_of(routine)
    return tuple(Fraction(start.get(axis.name, 0)) for axis in machine.axes)


class AxisTargets:
    """What one axis is commanded: ``values``, of which the first is where it begins, and ``keys`` of all others.

    A key is twice the row, and 1 more where the value is a way from the last commanded exact position.
    """

    def __init__(self, start: Decimal | int) -> None:
        self.keys = array("q")
        self.values: list[Decimal | int] = [start]
        # There is one for every position of a long routine: no call of our own is made for each.
        self.add = (self.keys.append, self.values.append)

    def position(self, row: int) -> Fraction:
        """Return the exact commanded position before a row, in axis units."""
        index, found = bisect_left(self.keys, 2 * row), Fraction(0)
        while index and self.keys[index - 1] & 1:
            found += Fraction(self.values[index])
            index -= 1
        return found + Fraction(self.values[index])

    def positions(self) -> list[Decimal]:
        """Return where the axis begins, and the exact commanded position after each row that names it."""
        position = Decimal(self.values[0])
        found = [position]
        with localcontext() as context:
            context.prec = EXACT_DIGITS
            for key, value in zip(self.keys, islice(self.values, 1, None), strict=True):
                position = position + value if key & 1 else Decimal(value)
                found.append(position)
        return found

    def beyond(self, low: Decimal, high: Decimal) -> list[tuple[int, Decimal]]:
        """Return the rows that command a position outside of two limits, and the positions."""
        reached = zip(self.keys, self.positions()[1:], strict=True)
        return [(key >> 1, position) for key, position in reached if not low <= position <= high]


class Places:
    """Of which block each row is, and where that stands in the routine."""

    def __init__(self) -> None:
        self.blocks: list[Block] = []
        self.parents: list[Path] = []
        self.indices = array("q")

    def add(self, block: Block, parent: Path, index: int) -> int:
        """Add the next row and return its number."""
        row = len(self.blocks)
        self.blocks.append(block)
        self.parents.append(parent)
        self.indices.append(index)
        return row

    def path(self, row: int) -> Path:
        """Return the path from the routine to the block of a row."""
        return self.parents[row] / self.indices[row]


class Commands:
    """The rows of a routine: their places, and what each axis is commanded.

    ``rests`` holds how long rows rest, s, ``factors`` by how much wished speeds are scaled, both where it matters.
    """

    def __init__(self, names: Sequence[str], starts: Sequence[Decimal | int]) -> None:
        self.names, self.places = names, Places()
        self.axes = [AxisTargets(start) for start in starts]
        self._add = {name: axis.add for name, axis in zip(names, self.axes, strict=True)}
        self.rests: dict[int, float] = {}
        self.factors: dict[int, float] = {}

    def rest(self, block: Block, parent: Path, index: int, seconds: float) -> None:
        """Let all axes rest for so many seconds."""
        self.rests[self.places.add(block, parent, index)] = seconds

    def move(
        self, block: Block, parent: Path, index: int, to: Targets | None, by: Targets | None, speed_factor: float
    ) -> None:
        """Move axes straight and together."""
        row = self.places.add(block, parent, index)
        if speed_factor != 1.0:
            self.factors[row] = speed_factor
        if to:
            self._aim(2 * row, to)
        if by:
            self._aim(2 * row + 1, by)

    def _aim(self, key: int, targets: Targets) -> None:
        added = self._add
        for name, value in targets.items():
            add_key, add_value = added[name]
            add_key(key)
            add_value(value)

    def positions(self, row: int) -> tuple[Fraction, ...]:
        """Return the exact commanded positions before a row, in axis units; one row on, those after it."""
        return tuple(axis.position(row) for axis in self.axes)


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
    for axis, targets in zip(machine.axes, found.axes, strict=True):
        if axis.limits.wrap is not None:
            _unwrapped(targets, axis.limits.wrap)
    return found


TURN = 360


def way_to(here: Decimal, target: Decimal, wrap: str) -> Decimal:
    """Return the way, in deg, from a position to a target modulo a turn; a tie of ``shortest`` goes the positive way.

    The result is exact as long as the context holds all digits of both.
    """
    ahead = (target - here) % TURN  # with the sign of the dividend
    if ahead < 0:
        ahead += TURN
    if wrap == "positive" or not ahead:
        return ahead
    return ahead - TURN if wrap == "negative" or ahead > TURN / 2 else ahead


def _unwrapped(targets: AxisTargets, wrap: str) -> None:
    """Make absolute, unwrapped positions of what an axis that wraps is commanded."""
    with localcontext() as context:
        context.prec = EXACT_DIGITS
        here = Decimal(targets.values[0])
        for index, key in enumerate(targets.keys):
            value = Decimal(targets.values[index + 1])
            here += value if key & 1 else way_to(here, value, wrap)
            targets.keys[index], targets.values[index + 1] = key & ~1, here


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
