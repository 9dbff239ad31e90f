"""Routines: which exact positions a program of blocks commands, one row after the other. No time.

A row is what axes do at once: a rest, or a move that they begin and end together. Targets are kept for each axis, at
those rows only that name it.
"""

from __future__ import annotations

from array import array
from bisect import bisect_left
from collections.abc import Callable, Iterator, Mapping, Sequence
from decimal import Decimal, localcontext
from fractions import Fraction
from itertools import pairwise
from typing import TYPE_CHECKING

from kivant.core.fields import EXACT_DIGITS
from kivant.core.machine.parts import Machine, Routine, start_of
from kivant.core.machine.tool import UnreachableError, tool_of
from kivant.core.motion.blocks import Block, block_kind
from kivant.core.motion.blocks.kind import Targets
from kivant.core.motion.outline import Places
from kivant.core.motion.row_count import RowCounter
from kivant.core.motion.spins import NO_SPINS, RowFault, Spins, spun
from kivant.core.path import Path

if TYPE_CHECKING:
    from kivant.core.motion.tool_line import Line

BLOCKS = Path.of("blocks")
BEGINNING = -1
"""The row at which an axis is where it begins: before all others."""

_GENTLER, _MORE = 8, 0.98  # how often ramps of spins are made gentler for the tool, and what else is taken then


def start_positions(machine: Machine, routine: Routine) -> tuple[Fraction, ...]:
    """Return where every axis begins: 0 unless the routine says otherwise; axis units."""
    start = start_of(routine)
    return tuple(Fraction(start.get(axis.name, 0)) for axis in machine.axes)


class AxisTargets:
    """What one axis is commanded: ``values``, of which the first is where it begins, and their ``keys``.

    A key is twice the row, which is -1 for the beginning, and 1 more where the value is a way from the last commanded
    exact position.
    """

    def __init__(self, start: Decimal | int) -> None:
        self.keys = array("q", [2 * BEGINNING])
        self.values: list[Decimal | int] = [start]
        # There is one for every position of a long routine: no call of our own is made for each.
        self.add = (self.keys.append, self.values.append)

    def position(self, row: int) -> Fraction:
        """Return the exact commanded position before a row, in axis units."""
        index, found = bisect_left(self.keys, 2 * row) - 1, Fraction(0)
        while self.keys[index] & 1:
            found += Fraction(self.values[index])
            index -= 1
        return found + Fraction(self.values[index])

    def positions(self) -> list[Decimal]:
        """Return where the axis begins, and the exact commanded position after each row that names it."""
        position, found = Decimal(0), []
        with localcontext() as context:
            context.prec = EXACT_DIGITS
            for key, value in zip(self.keys, self.values, strict=True):
                position = position + value if key & 1 else Decimal(value)
                found.append(position)
        return found

    def goes(self) -> Iterator[tuple[int, Decimal, Decimal]]:
        """Yield each row that names the axis, and its exact commanded positions before and after it."""
        for key, (before, after) in zip(self.keys[1:], pairwise(self.positions()), strict=True):
            yield key >> 1, before, after

    def beyond(self, low: Decimal, high: Decimal) -> list[tuple[int, Decimal]]:
        """Return the rows that command a position outside of two limits, and the positions."""
        return [(row, position) for row, _before, position in self.goes() if not low <= position <= high]


class Commands:
    """The rows of a routine: their places, and what each axis is commanded.

    ``rests`` holds how long rows rest, s, ``factors`` by how much wished speeds are scaled, each as rows and values,
    where it matters; ``apart`` rows in which axes move each by itself; ``spins`` says of each spin what its axes do.
    """

    def __init__(self, machine: Machine, starts: Sequence[Decimal | int], checkpoint: Callable[[], None]) -> None:
        self.names: Sequence[str] = [axis.name for axis in machine.axes]
        self.poses: Mapping[str, Targets] = {pose.name: pose.at for pose in machine.poses or ()}
        self.places = Places()
        self.axes = [AxisTargets(start) for start in starts]
        self.rests, self.factors = Sparse(), Sparse()
        self.apart = array("q")
        self.spun, self.straight = array("q"), array("q")
        self.spins: Spins = NO_SPINS
        self.unreachable: list[RowFault] = []
        self.lines: dict[int, tuple[Line, ...]] = {}  # of rows in which the tool goes straight, from stop to stop
        self.slowed: list[tuple[int, float, str]] = []  # rows of lines near a singular place: how slow, and where
        self._tool = tool_of(machine)
        self._reached: dict[tuple[tuple[str, Decimal], ...], Targets] = {}
        self._add = dict(zip(self.names, [axis.add for axis in self.axes], strict=True))
        self._checkpoint = checkpoint
        self._counter = RowCounter(machine)
        self._called = False

    def lay(self, blocks: Sequence[Block], parent: Path) -> None:
        """Lay blocks one behind the other; `parent` is where they stand in the routine."""
        places, called = self.places, self._called
        for index, block in enumerate(blocks):
            self._checkpoint()
            if called and not self._counter.of(block):
                continue  # a routine that does nothing may be called very often
            entry = places.enter(block, parent, None if called else index)
            if not block.off:
                block_kind(block).lay(block, self)
                places.leave(entry)
            elif not called:
                self._enter(block_kind(block).inside(block), parent / index / "blocks")

    def _enter(self, blocks: Sequence[Block], parent: Path) -> None:
        """Enter what is inside of a block that is left out."""
        for index, block in enumerate(blocks):
            self.places.enter(block, parent, index)
            self._enter(block_kind(block).inside(block), parent / index / "blocks")

    def _row(self) -> int:
        """Add the next row, of the block that was entered last, and return its number."""
        places = self.places
        places.of.append(len(places.blocks) - 1)
        return len(places.of) - 1

    def rest(self, seconds: float) -> None:
        """Let all axes rest for so many seconds."""
        self.rests.add(self._row(), seconds)

    def move(
        self, to: Targets | None, by: Targets | None, speed_factor: float, *, together: bool = True,
        straight: bool = False,
    ) -> None:  # fmt: skip
        """Move axes straight and together, or each by itself; or the tool straight."""
        row = self._row()
        if straight and to:
            self.straight.append(row)
        if speed_factor != 1.0:
            self.factors.add(row, speed_factor)
        if not together:
            self.apart.append(row)
        if to:
            self._aim(2 * row, to)
        if by:
            self._aim(2 * row + 1, by)

    def tool_targets(self, place: Targets) -> Targets | None:
        """Return the positions that put the tool at a place; None, and a fault of the next row, if none do."""
        key = tuple(place.items())
        if key not in self._reached and self._tool is not None:
            try:
                self._reached[key] = self._tool.targets(place)
            except UnreachableError as error:
                fault = error.faults[0]
                self.unreachable.append(RowFault(len(self.places), Path.of("tool"), fault.message, fault.remedy))
        return self._reached.get(key)

    def spin(self) -> None:
        """Turn axes at speeds; what lies between two of them is found when all are laid."""
        self.spun.append(self._row())

    def repeat(self, times: int, blocks: Sequence[Block]) -> None:
        """Lay blocks so many times: once as blocks, and then as columns."""
        places = self.places
        first, entry = len(places), len(places.blocks) - 1
        columns = [axis.keys for axis in self.axes], [
            self.rests.rows, self.factors.rows, self.apart, self.spun, self.straight,
        ]  # fmt: skip
        before = [[len(column) for column in own] for own in columns]
        inside = places.parent(entry) if self._called else places.entry_path(entry) / "blocks"
        self.lay(blocks, inside)
        period = len(places) - first
        if times == 1 or not period:
            return
        places.repeat(first, times)
        for axis, since in zip(self.axes, before[0], strict=True):
            axis.values += axis.values[since:] * (times - 1)
            _go_on(axis.keys, since, 2 * period, times)
        for sparse, since in zip((self.rests, self.factors), before[1], strict=False):
            sparse.values += sparse.values[since:] * (times - 1)
        for column, since in zip(columns[1], before[1], strict=True):
            _go_on(column, since, period, times)

    def call(self, routine: str) -> None:
        """Lay another routine's blocks, as far as they do anything."""
        if not self._counter.routine(routine):
            return
        places, called = self.places, self._called
        entry = len(places.blocks) - 1
        place = places.parent(entry) if called else places.entry_path(entry)
        self._called = True
        self.lay(self._counter.blocks[routine], place)
        self._called = called

    def _aim(self, key: int, targets: Targets) -> None:
        added = self._add
        for name, value in targets.items():
            add_key, add_value = added[name]
            add_key(key)
            add_value(value)

    def positions(self, row: int) -> tuple[Fraction, ...]:
        """Return the exact commanded positions before a row, in axis units; one row on, those after it."""
        return tuple(axis.position(row) for axis in self.axes)


class Sparse:
    """Values of some rows, ascending."""

    def __init__(self) -> None:
        self.rows, self.values = array("q"), array("d")

    def add(self, row: int, value: float) -> None:
        """Add the value of a row behind all others."""
        self.rows.append(row)
        self.values.append(value)


def _go_on(rows: array[int], since: int, period: int, times: int) -> None:
    """Add what follows on the rows from place `since` on, period by period, so many times in all."""
    own = rows[since:]
    for turn in range(1, times):
        shift = turn * period
        rows.extend([row + shift for row in own])


def commands(machine: Machine, routine: Routine, checkpoint: Callable[[], None] = lambda: None) -> Commands:
    """Return what a routine commands.

    `checkpoint` is called before every block; what it raises ends the work.
    """
    found, shares = _commands(machine, routine, checkpoint, {}), dict[int, float]()
    if not found.spun or machine.geometry is None:
        return found
    from kivant.core.motion.spin_tool import held_to_tool  # NumPy, where axes that carry a tool spin

    for rounds in range(_GENTLER + 1):
        if found.spins.faults:
            break
        held = held_to_tool(machine, found, checkpoint)
        if len(held.shares) < len(held.faults) or (held.faults and rounds == _GENTLER):
            found.spins = found.spins._replace(faults=held.faults)
        elif held.shares:  # the ramps of these spins are made gentler
            shares |= {head: shares.get(head, 1.0) * _MORE * share for head, share in held.shares.items()}
            found = _commands(machine, routine, checkpoint, shares)
        else:
            break
    return found


def _commands(
    machine: Machine, routine: Routine, checkpoint: Callable[[], None], shares: Mapping[int, float]
) -> Commands:
    start = start_of(routine)
    found = Commands(machine, [start.get(axis.name, 0) for axis in machine.axes], checkpoint)
    found.lay(routine.blocks, BLOCKS)
    if found.spun:
        found.spins = spun(machine, found.places, found.spun, found.axes, checkpoint, shares)
    for axis, targets in zip(machine.axes, found.axes, strict=True):
        if axis.limits.wrap is not None:
            _unwrapped(targets, axis.limits.wrap)
    if found.straight:
        from kivant.core.motion.straights import with_straights  # NumPy, where a tool goes straight

        found.spins = with_straights(machine, found, checkpoint)
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
        for index, key in enumerate(targets.keys[1:], 1):
            value = Decimal(targets.values[index])
            here += value if key & 1 else way_to(here, value, wrap)
            targets.keys[index], targets.values[index] = key & ~1, here


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
