"""Laying: blocks of a routine as rows, one behind the other; what a repeat holds is laid once, and then as columns."""

from __future__ import annotations

from array import array
from collections.abc import Callable, Mapping, Sequence
from decimal import Decimal
from typing import Any

from msgspec import Struct, field

from kivant.core.kept import kept
from kivant.core.machine.parts import Machine
from kivant.core.machine.tool import Tool, UnreachableError, tool_of
from kivant.core.motion.blocks import Block, block_kind
from kivant.core.motion.blocks.kind import Targets
from kivant.core.motion.commanded import Commands
from kivant.core.motion.row_count import RowCounter
from kivant.core.motion.spins import RowFault
from kivant.core.path import Path


class Laying(Struct, dict=True):
    """What blocks lay their rows into: see `kivant.core.motion.blocks.kind.Rows`.

    ``checkpoint`` is called before every block; ``called`` says that what is laid now is another routine's.
    """

    machine: Machine
    found: Commands
    checkpoint: Callable[[], None]
    called: bool = False
    reached: dict[tuple[tuple[str, Decimal], ...], Targets] = field(default_factory=dict)

    @kept
    def names(self) -> Sequence[str]:
        """The names of all axes."""
        return [axis.name for axis in self.machine.axes]

    @kept
    def poses(self) -> Mapping[str, Targets]:
        """All poses by name."""
        return {pose.name: pose.at for pose in self.machine.poses or ()}

    @kept
    def _adding(self) -> Mapping[str, tuple[Callable[[int], None], Callable[[Any], None]]]:
        # There is one for every position of a long routine: no call of our own is made for each.
        own = zip(self.machine.axes, self.found.axes, strict=True)
        return {axis.name: (targets.keys.append, targets.values.append) for axis, targets in own}

    @kept
    def _tool(self) -> Tool | None:
        return tool_of(self.machine)

    @kept
    def _counter(self) -> RowCounter:
        return RowCounter(self.machine)

    def lay(self, blocks: Sequence[Block], parent: Path) -> None:
        """Lay blocks one behind the other; `parent` is where they stand in the routine."""
        places, called = self.found.places, self.called
        for index, block in enumerate(blocks):
            self.checkpoint()
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
            self.found.places.enter(block, parent, index)
            self._enter(block_kind(block).inside(block), parent / index / "blocks")

    def rest(self, seconds: float) -> None:
        """Let all axes rest for so many seconds."""
        self.found.rests.add(self.found.places.add_row(), seconds)

    def move(self, to: Targets | None, by: Targets | None, speed_factor: float) -> int:
        """Move axes straight and together, and return the row."""
        row, adding = self.found.places.add_row(), self._adding
        if speed_factor != 1.0:
            self.found.factors.add(row, speed_factor)
        for key, targets in ((2 * row, to), (2 * row + 1, by)):
            if targets:
                for name, value in targets.items():
                    add_key, add_value = adding[name]
                    add_key(key)
                    add_value(value)
        return row

    def move_apart(self, to: Targets | None, by: Targets | None, speed_factor: float) -> None:
        """Move axes each by itself."""
        self.found.apart.append(self.move(to, by, speed_factor))

    def move_to(self, place: Targets, speed_factor: float, *, straight: bool) -> None:
        """Move the tool to a place; where no positions put it there, that is a fault of the row."""
        to = self._targets(place)
        row = self.move(to, None, speed_factor)
        if to:
            (self.found.straight if straight else self.found.placed).append(row)

    def _targets(self, place: Targets) -> Targets | None:
        key = tuple(place.items())
        if key not in self.reached and self._tool is not None:
            try:
                self.reached[key] = self._tool.targets(place)
            except UnreachableError as error:
                fault, row = error.faults[0], len(self.found.places)
                self.found.unreachable.append(RowFault(row, Path.of("tool"), fault.message, fault.remedy))
        return self.reached.get(key)

    def spin(self) -> None:
        """Turn axes at speeds; what lies between two of them is found when all are laid."""
        self.found.spun.append(self.found.places.add_row())

    def repeat(self, times: int, blocks: Sequence[Block]) -> None:
        """Lay blocks so many times: once as blocks, and then as columns."""
        found, places = self.found, self.found.places
        first, entry = len(places), len(places.blocks) - 1
        columns = [axis.keys for axis in found.axes], [
            found.rests.rows, found.factors.rows, found.apart, found.spun, found.straight, found.placed,
        ]  # fmt: skip
        before = [[len(column) for column in own] for own in columns]
        inside = places.parent(entry) if self.called else places.entry_path(entry) / "blocks"
        self.lay(blocks, inside)
        period = len(places) - first
        if times == 1 or not period:
            return
        places.repeat(first, times)
        for axis, since in zip(found.axes, before[0], strict=True):
            axis.values += axis.values[since:] * (times - 1)
            _go_on(axis.keys, since, 2 * period, times)
        for sparse, since in zip((found.rests, found.factors), before[1], strict=False):
            sparse.values += sparse.values[since:] * (times - 1)
        for column, since in zip(columns[1], before[1], strict=True):
            _go_on(column, since, period, times)

    def call(self, routine: str) -> None:
        """Lay another routine's blocks, as far as they do anything."""
        if not self._counter.routine(routine):
            return
        places, called = self.found.places, self.called
        entry = len(places.blocks) - 1
        place = places.parent(entry) if called else places.entry_path(entry)
        self.called = True
        self.lay(self._counter.blocks[routine], place)
        self.called = called


def _go_on(rows: array[int], since: int, period: int, times: int) -> None:
    """Add what follows on the rows from place `since` on, period by period, so many times in all."""
    own = rows[since:]
    for turn in range(1, times):
        shift = turn * period
        rows.extend([row + shift for row in own])
