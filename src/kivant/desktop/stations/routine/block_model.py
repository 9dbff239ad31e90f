"""Blocks as the toolkit's lists want them: a tree of rows, with times and positions as the plan has them."""

from __future__ import annotations

import sys
from collections.abc import Sequence
from typing import Any

import numpy as np
from PySide6.QtCore import QAbstractItemModel, QModelIndex, QPersistentModelIndex, Qt

from kivant.core.machine import Block, Machine
from kivant.core.motion.blocks import block_kind
from kivant.core.motion.plan import Plan
from kivant.core.motion.segment import Wholes
from kivant.core.program.editing import Place
from kivant.core.program.sentences import sentence, units_of
from kivant.desktop.kit import figures

LINE, BEGINS, TAKES, POSITIONS = 0, 1, 2, 3
"""Columns; those of the axes' positions begin with the last."""


Index = QModelIndex | QPersistentModelIndex


class _Node:
    """A row: a block, what it lies in, and its rows as far as they were asked for."""

    __slots__ = ("block", "blocks", "entries", "parent", "row", "rows", "texts")

    def __init__(self, parent: _Node | None, row: int, block: Block | None, blocks: tuple[Block, ...]) -> None:
        self.parent, self.row, self.block, self.blocks = parent, row, block, blocks
        self.rows: dict[int, _Node] = {}
        self.entries: Wholes | None = None
        self.texts: Sequence[str] | None = None

    @property
    def place(self) -> Place:
        """Where the block is."""
        return (*self.parent.place, self.row) if self.parent is not None else ()

    def at(self, row: int) -> _Node:
        """Return one of its rows."""
        if row not in self.rows:
            block = self.blocks[row]
            self.rows[row] = _Node(self, row, block, block_kind(block).inside(block))
        return self.rows[row]


class BlockModel(QAbstractItemModel):
    """The blocks of a routine; columns are what they do, when, how long, and where each axis is after them."""

    def __init__(self) -> None:
        super().__init__()
        self.machine: Machine = Machine()
        self.blocks: tuple[Block, ...] = ()
        self.plan: Plan | None = None
        self._root = _Node(None, 0, None, ())
        self._units, self._letters = units_of(self.machine), figures.letters(self.machine)

    def load(self, machine: Machine, blocks: tuple[Block, ...]) -> bool:
        """Show blocks of a machine; return whether they are others than before."""
        before, self.machine = self.machine, machine
        if blocks is self.blocks and machine.axes is before.axes:
            return False
        self.beginResetModel()
        if blocks is not self.blocks or [axis.name for axis in machine.axes] != [axis.name for axis in before.axes]:
            self.plan = None  # of other blocks, or of axes in other columns
        self.blocks = blocks
        self._units, self._letters = units_of(machine), figures.letters(machine)
        self._root = _Node(None, 0, None, blocks)
        self.endResetModel()
        return True

    def tell(self, plan: Plan | None) -> None:
        """Show the times and positions of a plan, if it is one of these blocks."""
        fits = plan is not None and plan.routine.blocks is self.blocks and len(plan.axes) == len(self.machine.axes)
        self.plan = plan if fits else None
        self._forget(self._root)
        if self.blocks:
            last = self.index(len(self.blocks) - 1, self.columnCount() - 1, QModelIndex())
            self.dataChanged.emit(self.index(0, BEGINS, QModelIndex()), last)

    def _forget(self, node: _Node) -> None:
        node.entries = node.texts = None
        for inner in node.rows.values():
            self._forget(inner)

    # Places

    def _node(self, index: Index) -> _Node:
        found = index.internalPointer() if index.isValid() else None
        return found if isinstance(found, _Node) else self._root

    def place(self, index: Index) -> Place:
        """Return the place of the block of a row."""
        return self._node(index).place

    def block(self, index: Index) -> Block | None:
        """Return the block of a row."""
        return self._node(index).block

    def index_of(self, place: Place, column: int = LINE) -> QModelIndex:
        """Return the row of a place; none, where there is no such block."""
        node = self._root
        for row in place:
            if not 0 <= row < len(node.blocks):
                return QModelIndex()
            node = node.at(row)
        return self.createIndex(node.row, column, node) if place else QModelIndex()

    def entry(self, index: Index) -> int | None:
        """Return which of the plan's listed blocks a row is."""
        node = self._node(index)
        if self.plan is None or node.parent is None:
            return None
        entries = self._entries(node.parent)
        return int(entries[node.row]) if entries is not None and node.row < len(entries) else None

    def _entries(self, node: _Node) -> Wholes | None:
        if node.entries is None and self.plan is not None:
            depths, first = self.plan.blocks.listed.depth, 0
            if node.parent is not None:
                outer = self._entries(node.parent)
                if outer is None or node.row >= len(outer):
                    return None
                first = int(outer[node.row]) + 1
            level = len(node.place)
            out = np.flatnonzero(depths[first:] < level)
            end = first + int(out[0]) if len(out) else len(depths)
            node.entries = first + np.flatnonzero(depths[first:end] == level)
        return node.entries

    # What the toolkit asks

    def index(self, row: int, column: int, parent: Index = QModelIndex()) -> QModelIndex:  # noqa: B008
        """Return the index of a row and column below another one."""
        node = self._node(parent)
        if not 0 <= row < len(node.blocks):
            return QModelIndex()
        return self.createIndex(row, column, node.at(row))

    def parent(self, index: Index) -> QModelIndex:  # type: ignore[override]
        """Return the row that a row lies in."""
        outer = self._node(index).parent
        if outer is None or outer.parent is None:
            return QModelIndex()
        return self.createIndex(outer.row, 0, outer)

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        """Return how many blocks lie in one."""
        return len(self._node(parent).blocks) if parent.column() <= 0 else 0

    def columnCount(self, _parent: Index = QModelIndex()) -> int:  # noqa: B008
        """Return how many columns there are."""
        return POSITIONS + len(self.machine.axes)

    def flags(self, index: Index) -> Qt.ItemFlag:
        """Return what can be done with a row."""
        flag = Qt.ItemFlag
        return flag.ItemIsEnabled | flag.ItemIsSelectable if index.isValid() else flag.NoItemFlags

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = 0) -> Any:
        """Return what stands above a column."""
        if orientation != Qt.Orientation.Horizontal:
            return None
        if role == Qt.ItemDataRole.DisplayRole:
            if section < POSITIONS:
                return ("what it does", "begins", "takes")[section]
            axis = self.machine.axes[section - POSITIONS]
            return f"{self._letters[section - POSITIONS]}  {axis.name}, {axis.unit}"
        if role == Qt.ItemDataRole.TextAlignmentRole:
            side = Qt.AlignmentFlag.AlignLeft if section == LINE else Qt.AlignmentFlag.AlignRight
            return int(side | Qt.AlignmentFlag.AlignVCenter)
        if role == Qt.ItemDataRole.ToolTipRole and section >= POSITIONS:
            return f"Where {self.machine.axes[section - POSITIONS].name} is after each block"
        return None

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Return what is to be shown of a row in a column."""
        if role == Qt.ItemDataRole.TextAlignmentRole and index.column() != LINE:
            return int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        shows = role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.ToolTipRole)
        return self.texts(index)[index.column()] if shows and self.block(index) is not None else None

    def texts(self, index: Index) -> Sequence[str]:
        """Return what stands in the columns of a row; it is kept until there is another plan."""
        node = self._node(index)
        if node.texts is None:
            try:
                node.texts = self._texts(index)
            except Exception:  # told, but not to the toolkit, which would not survive it
                sys.excepthook(*sys.exc_info())
                node.texts = [""] * self.columnCount()
        return node.texts

    def _texts(self, index: Index) -> list[str]:
        block, entry = self.block(index), self.entry(index)
        line = figures.signed(sentence(block, self._units)) if block is not None else ""
        if entry is None or self.plan is None:
            return [line] + [""] * (self.columnCount() - 1)
        listed = self.plan.blocks.listed
        begin, end = float(listed.begin_s[entry]), float(listed.end_s[entry])
        takes = figures.brief_seconds(end - begin) if end > begin else ""
        positions = (self.position(axis, end) for axis in range(len(self.machine.axes)))
        return [line, f"{begin:.3f} s", takes, *(figures.plain(round(position, 4)) for position in positions)]

    def position(self, axis: int, time_s: float) -> float:
        """Return where an axis is at a time of the plan, in its unit."""
        assert self.plan is not None
        planned = self.plan.axes[axis]
        return planned.ideal_at(time_s) / float(planned.steps_per_unit)
