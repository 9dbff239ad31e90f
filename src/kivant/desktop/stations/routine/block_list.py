"""The list: a line a block in plain words, typed where it stands, with times and positions beside it."""

from __future__ import annotations

from typing import Any, cast

from PySide6.QtCore import (
    QEvent,
    QItemSelection,
    QItemSelectionModel,
    QModelIndex,
    QPersistentModelIndex,
    QPointF,
    QRect,
    Qt,
)
from PySide6.QtGui import (
    QContextMenuEvent,
    QDragEnterEvent,
    QDragMoveEvent,
    QDropEvent,
    QFontMetrics,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPolygonF,
    QResizeEvent,
)
from PySide6.QtWidgets import QAbstractItemView, QMenu, QStyleOptionViewItem, QTreeView

from kivant.core.program.editing import Place
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.stations.routine.acts import Acts
from kivant.desktop.stations.routine.block_line import BlockLine, Marks
from kivant.desktop.stations.routine.block_model import BEGINS, LINE, POSITIONS, BlockModel
from kivant.desktop.stations.routine.keys import act_of, fill_menu
from kivant.desktop.stations.routine.line_typing import LineTyping

_LINE, _SHORT = 300, 190  # pixels that a line of a block wants, and where there is little room
_NARROW = 720  # pixels of the list, below which it does not say when blocks begin
_MOST_UNFOLDED = 5000
_OWN_KEYS = (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Home, Qt.Key.Key_End)
Index = QModelIndex | QPersistentModelIndex


class BlockList(QTreeView):
    """The blocks of the program, chosen, typed and dragged."""

    def __init__(self, session: Session, acts: Acts) -> None:
        super().__init__()
        self.session, self.acts, self.program, self.blocks = session, acts, acts.program, BlockModel()
        self.typing = LineTyping(self, self.program, self.blocks)
        self.marks = Marks()
        self._following = False
        self.setModel(self.blocks)
        self._lines = BlockLine(self, session, self.blocks, self.marks)
        self.setItemDelegate(self._lines)
        self.setUniformRowHeights(True)
        self.setIndentation(20)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setExpandsOnDoubleClick(False)
        self.setAllColumnsShowFocus(True)
        self.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.setDragEnabled(True)
        self.setDropIndicatorShown(True)
        self.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setFrameShape(QTreeView.Shape.NoFrame)
        self.setAccessibleName("Blocks of the routine")
        self.setMinimumHeight(120)
        self.header().setHighlightSections(False)
        self.header().setStretchLastSection(False)
        self.header().setMinimumSectionSize(52)
        self.header().setFont(font("small"))
        self.header().setTextElideMode(Qt.TextElideMode.ElideRight)
        self.selectionModel().selectionChanged.connect(self._tell)
        self.selectionModel().currentChanged.connect(self._tell)
        self.program.chosen_changed.connect(self.show_chosen)
        session.playhead_moved.connect(self.follow_playhead)

    # What is shown

    def reload(self) -> None:
        """Show the program as it is now."""
        if self.blocks.load(self.session.document.machine, self.program.blocks):
            if len(self.program.blocks) < _MOST_UNFOLDED:
                self.expandAll()
            self._fit_columns()
            self.show_chosen()

    def _fit_columns(self) -> None:
        """Give the lines what the figures leave, but no less than a sentence wants: then there is a scroll bar."""
        header, count = self.header(), self.blocks.columnCount()
        metrics, used = QFontMetrics(font("text")), 0
        self.setColumnHidden(BEGINS, self.viewport().width() < _NARROW)
        for column in range(1, count):
            if self.isColumnHidden(column):
                continue
            title = str(self.blocks.headerData(column, Qt.Orientation.Horizontal))
            widest = metrics.horizontalAdvance("0000.000 s" if column < POSITIONS else "−00000.0") + 16
            width = min(max(widest, metrics.horizontalAdvance(title) + 16), 110 if count < 9 else widest)
            header.resizeSection(column, width)
            used += width
        least = _SHORT if self.isColumnHidden(BEGINS) else _LINE
        header.resizeSection(LINE, max(self.viewport().width() - used, least))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit_columns()

    def tell_plan(self) -> None:
        """Show what the newest plan says of the blocks."""
        self.blocks.tell(self.session.planning.plan)
        self.follow_playhead()

    def follow_playhead(self) -> None:
        """Mark the block in force at the playhead."""
        block = self.session.planning.block_at(self.session.playhead.time_s) if self.blocks.plan else None
        place = tuple(part for part in block.path if isinstance(part, int)) if block else None
        if place != self.marks.in_force:
            self.marks.in_force = place
            self.viewport().update()

    def drawRow(self, painter: QPainter, options: QStyleOptionViewItem, index: Index) -> None:
        """Paint a row, chosen or not."""
        row, theme = QRect(cast(Any, options).rect), self.session.theme  # its stubs lack its fields
        header, place, texts = self.header(), self.blocks.place(index), self.blocks.texts(index)
        cells = [
            QRect(header.sectionViewportPosition(column), row.top(), header.sectionSize(column), row.height())
            for column in range(len(texts))
        ]
        chosen = self.selectionModel().isSelected(index)
        if chosen:
            painter.fillRect(row, theme.tint(theme.color("accent"), 0.16))
        indent = self.indentation() * len(place)
        self.drawBranches(painter, QRect(cells[LINE].left(), row.top(), indent, row.height()), index)
        cells[LINE] = cells[LINE].adjusted(indent, 0, 0, 0)
        self._lines.paint_row(painter, row, place, texts, cells)
        current = self.currentIndex()
        if chosen and self.hasFocus() and current.isValid() and self.blocks.place(current) == place:
            painter.setPen(theme.pen(theme.color("accent"), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(cells[current.column()].adjusted(0, 0, -1, -1))

    def drawBranches(self, painter: QPainter, rect: QRect, index: Index) -> None:
        """Paint what folds a block that holds others, and a line down along what is inside."""
        theme = self.session.theme
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        step, middle = self.indentation(), rect.center().y() + 0.5
        painter.setPen(theme.pen(theme.color("edge"), 2))
        for level in range(1, rect.width() // step):
            x = rect.left() + level * step - step / 2
            painter.drawLine(QPointF(x, rect.top()), QPointF(x, rect.bottom() + 1))
        if self.blocks.rowCount(index):
            x = rect.right() - step / 2
            corners = ((-4, -2), (4, -2), (0, 4)) if self.isExpanded(index) else ((-2, -4), (4, 0), (-2, 4))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.color("muted"))
            painter.drawPolygon(QPolygonF([QPointF(x + dx, middle + dy) for dx, dy in corners]))
        painter.restore()

    # What is chosen

    def _tell(self, *_what: object) -> None:
        if self._following:
            return
        rows = [index for index in self.selectionModel().selectedRows() if index.isValid()]
        current = self.currentIndex()
        self._following = True
        self.program.choose(
            sorted(self.blocks.place(row) for row in rows), self.blocks.place(current) if current.isValid() else None
        )
        self._following = False

    def show_chosen(self) -> None:
        """Choose in the list what is chosen in the program."""
        if self._following:
            return
        self._following = True
        chosen = QItemSelection()
        for place in self.program.places:
            index = self.blocks.index_of(place)
            chosen.select(index, index)
        flags = QItemSelectionModel.SelectionFlag
        if self.program.current is not None:
            index = self.blocks.index_of(self.program.current)
            self.selectionModel().setCurrentIndex(index, flags.NoUpdate)
            self.scrollTo(index)
        self.selectionModel().select(chosen, flags.ClearAndSelect | flags.Rows)
        self._following = False

    # Keys, clicks and drags

    def keyPressEvent(self, event: QKeyEvent) -> None:
        act = act_of(event, self.acts, self.typing)
        if act is not None:
            act()
        else:
            super().keyPressEvent(event)

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
            means_here = act_of(event, self.acts, self.typing) is not None or Qt.Key(event.key()) in _OWN_KEYS
            if means_here:
                event.accept()
                return True
        return super().event(event)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        index = self.indexAt(event.position().toPoint())
        if index.isValid():
            self.typing.line(index)
        else:
            super().mouseDoubleClickEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        menu = QMenu(self)
        fill_menu(menu, self.acts, self.typing)
        menu.popup(event.globalPos())

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.source() is self:
            event.accept()

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        super().dragMoveEvent(event)
        event.accept() if event.source() is self else event.ignore()

    def dropEvent(self, event: QDropEvent) -> None:
        """Move the dragged blocks to where the mark is."""
        if event.source() is self:
            self.acts.move_to(self.drop_place(event.position().toPoint().y()))
        event.setDropAction(Qt.DropAction.IgnoreAction)  # the machine is changed, and the list follows it
        event.accept()

    def drop_place(self, y: int) -> Place:
        """Return where blocks go that are dropped at a height of the list."""
        index = self.indexAt(QRect(2, y, 1, 1).topLeft())
        if not index.isValid():
            return (len(self.program.blocks),)
        place, box = self.blocks.place(index), self.visualRect(index)
        share = (y - box.top()) / max(box.height(), 1)
        holds = self.blocks.rowCount(index.siblingAtColumn(0)) > 0 and self.isExpanded(index.siblingAtColumn(0))
        if share < 0.5:
            return place
        return (*place, 0) if holds else (*place[:-1], place[-1] + 1)
