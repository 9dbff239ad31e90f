"""How a row of the list is painted: number, sign, name and sentence, and figures beside them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, cast

from msgspec import Struct, field
from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QRect, QSize, Qt
from PySide6.QtGui import QFont, QPainter
from PySide6.QtWidgets import QStyledItemDelegate, QStyleOptionViewItem, QTreeView

from kivant.core.machine import Block
from kivant.core.program.editing import Place, block_at
from kivant.core.program.targets import target_text
from kivant.desktop.kit.theme import font
from kivant.desktop.kit.written import advance, write
from kivant.desktop.state.session import Session
from kivant.desktop.stations.routine.block_model import LINE, POSITIONS, BlockModel
from kivant.desktop.stations.routine.program import number_of

ROW = 27
"""Height of a row, pixels."""
Index = QModelIndex | QPersistentModelIndex
_BESIDE = 46  # pixels: what a row's number and the edges take beside a text


class Marks(Struct):
    """What is marked in the list: the block in force at the playhead, and what is wrong, by places."""

    in_force: Place | None = None
    wrong: dict[Place, str] = field(default_factory=dict)


class BlockLine(QStyledItemDelegate):
    """Knows how high a row is, and paints it: all of its cells at once, as there are many of them."""

    def __init__(self, view: QTreeView, session: Session, blocks: BlockModel, marks: Marks) -> None:
        super().__init__(view)
        self.session, self.blocks, self.marks = session, blocks, marks

    def sizeHint(self, _option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(advance(self.blocks.texts(index)[index.column()], "text") + _BESIDE, ROW)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        """Paint a cell by itself, as it is carried by a hand that drags its row."""
        box, column = QRect(cast(Any, option).rect), index.column()  # its stubs lack its fields
        painter.save()
        self._cell(painter, box, column, self.blocks.place(index), self.blocks.texts(index)[column])
        painter.restore()

    def paint_row(
        self, painter: QPainter, row: QRect, place: Place, texts: Sequence[str], cells: Sequence[QRect]
    ) -> None:
        """Paint the cells of the row of a block, one for each column."""
        theme = self.session.theme
        for column, (box, text) in enumerate(zip(cells, texts, strict=True)):
            self._cell(painter, box, column, place, text)
        painter.fillRect(QRect(row.left(), row.bottom(), row.width(), 1), theme.tint(theme.color("edge"), 0.6))

    def _cell(self, painter: QPainter, box: QRect, column: int, place: Place, text: str) -> None:
        """Paint a sentence, a time, or the position of an axis, in its colour where the block tells it one."""
        block, theme, axis = block_at(self.blocks.blocks, place), self.session.theme, column - POSITIONS
        if column == LINE:
            self._line(painter, box, place, block, text)
        elif text and box.width() > 0:
            told = axis >= 0 and not block.off and bool(target_text(block, self.blocks.machine.axes[axis]))
            painter.setPen(theme.axis(axis) if told else theme.color("muted"))
            write(painter, box.adjusted(4, 0, -6, 0), text, "strong" if told else "text", at_right=True)

    def _line(self, painter: QPainter, cell: QRect, place: Place, block: Block, text: str) -> None:
        """Paint number, sign, name and sentence."""
        theme, box = self.session.theme, cell.adjusted(8, 0, -4, 0)
        if place == self.marks.in_force:
            painter.fillRect(QRect(cell.left(), cell.top() + 3, 3, cell.height() - 6), theme.color("accent"))
        painter.setPen(theme.color("muted"))
        left = box.left() + max(write(painter, box, number_of(place), "small") + 10, 26)
        if place in self.marks.wrong:
            painter.setPen(theme.color("bad"))
            write(painter, QRect(left, box.top(), 14, box.height()), "✕", "small")
            left += 14
        is_note, off = block.do == "note", bool(block.off)
        painter.setPen(theme.color("muted" if off or is_note else "ink"))
        if block.name:
            left += write(painter, QRect(left, box.top(), 160, box.height()), block.name, "strong") + 10
        room = QRect(left, box.top(), box.right() - left, box.height())
        if not is_note and not off:
            write(painter, room, text, "text")
            return
        own = QFont(font("text"))
        own.setItalic(is_note)
        own.setStrikeOut(off)
        painter.setFont(own)
        said = text.removeprefix("note ") if is_note else text
        shown = painter.fontMetrics().elidedText(said, Qt.TextElideMode.ElideRight, room.width())
        painter.drawText(room, int(Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft), shown)
