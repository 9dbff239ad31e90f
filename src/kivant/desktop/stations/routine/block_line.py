"""How a row of the list is painted: number, sign, name and sentence, and figures beside them."""

from __future__ import annotations

from typing import Any, cast

from msgspec import Struct, field
from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QRect, QSize, Qt
from PySide6.QtGui import QFont, QPainter
from PySide6.QtWidgets import QStyle, QStyledItemDelegate, QStyleOptionViewItem, QTreeView

from kivant.core.program.editing import Place
from kivant.core.program.targets import target_text
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.stations.routine.block_model import LINE, POSITIONS, BlockModel
from kivant.desktop.stations.routine.program import number_of

ROW = 27
"""Height of a row, pixels."""
Index = QModelIndex | QPersistentModelIndex


class Marks(Struct):
    """What is marked in the list: the block in force at the playhead, and what is wrong, by places."""

    in_force: Place | None = None
    wrong: dict[Place, str] = field(default_factory=dict)


class BlockLine(QStyledItemDelegate):
    """Paints a block's number, name and sentence."""

    def __init__(self, view: QTreeView, session: Session, blocks: BlockModel, marks: Marks) -> None:
        super().__init__(view)
        self.view, self.session, self.blocks, self.marks = view, session, blocks, marks

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(super().sizeHint(option, index).width(), ROW)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        """Paint a cell of a row."""
        view, block, look = self.view, self.blocks.block(index), cast(Any, option)  # its stubs lack its fields
        theme, box = self.session.theme, QRect(look.rect)
        painter.save()
        place = self.blocks.place(index)
        chosen = bool(look.state & QStyle.StateFlag.State_Selected)
        if chosen:
            painter.fillRect(box, theme.tint(theme.color("accent"), 0.16))
        if index.column() == LINE and place == self.marks.in_force:
            painter.fillRect(QRect(box.left(), box.top() + 3, 3, box.height() - 6), theme.color("accent"))
        off = block is not None and bool(block.off)
        if index.column() == LINE and block is not None:
            self._line(painter, box.adjusted(8, 0, -4, 0), index, off=off)
        else:
            named = index.column() >= POSITIONS and block is not None
            axis = self.blocks.machine.axes[index.column() - POSITIONS] if named else None
            told = axis is not None and block is not None and bool(target_text(block, axis))
            hue = theme.axis(index.column() - POSITIONS) if told and not off else theme.color("muted")
            painter.setPen(hue)
            painter.setFont(font("strong" if told and not off else "text"))
            text = painter.fontMetrics().elidedText(
                str(index.data() or ""), Qt.TextElideMode.ElideRight, box.width() - 10
            )
            painter.drawText(
                box.adjusted(4, 0, -6, 0), int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter), text
            )
        painter.setPen(theme.tint(theme.color("edge"), 0.6))
        painter.drawLine(look.rect.bottomLeft(), look.rect.bottomRight())
        if chosen and view.hasFocus() and index == view.currentIndex():
            painter.setPen(theme.pen(theme.color("accent"), 1))
            painter.drawRect(look.rect.adjusted(0, 0, -1, -1))
        painter.restore()

    def _line(self, painter: QPainter, box: QRect, index: Index, *, off: bool) -> None:
        theme, block = self.session.theme, self.blocks.block(index)
        middle = int(Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft)
        number = number_of(self.blocks.place(index))
        painter.setFont(font("small"))
        painter.setPen(theme.color("muted"))
        painter.drawText(box, middle, number)
        left = box.left() + max(painter.fontMetrics().horizontalAdvance(number) + 10, 26)
        if self.blocks.place(index) in self.marks.wrong:
            painter.setPen(theme.color("bad"))
            painter.drawText(QRect(left, box.top(), 14, box.height()), middle, "✕")
            left += 14
        is_note = block is not None and block.do == "note"
        painter.setPen(theme.color("muted" if off or is_note else "ink"))
        if block is not None and block.name:
            painter.setFont(font("strong"))
            name = painter.fontMetrics().elidedText(block.name, Qt.TextElideMode.ElideRight, 160)
            painter.drawText(QRect(left, box.top(), 170, box.height()), middle, name)
            left += painter.fontMetrics().horizontalAdvance(name) + 10
        own = QFont(font("text"))
        own.setItalic(is_note)
        own.setStrikeOut(off)
        painter.setFont(own)
        text = str(index.data() or "")
        text = text.removeprefix("note ") if is_note else text
        room = box.right() - left
        shown = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, room)
        painter.drawText(QRect(left, box.top(), room, box.height()), middle, shown)
