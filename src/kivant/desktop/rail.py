"""The axis rail: a card per axis with its dial or ruler, the position at the playhead, and its drive."""

from __future__ import annotations

import math
from collections.abc import Iterator

from PySide6.QtCore import QPoint, QPointF, QRect, QRectF, QSize, Qt
from PySide6.QtGui import QContextMenuEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPolygonF
from PySide6.QtWidgets import QMenu, QPushButton, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from kivant.app import adding, editing
from kivant.core.errors import KivantError
from kivant.core.machine import Axis, CoilDriver
from kivant.desktop import figures
from kivant.desktop.pictured import Pictured
from kivant.desktop.session import Session
from kivant.desktop.theme import font
from kivant.desktop.value_field import ValueField, type_over

RAIL_WIDTH = 166
_DIAL, _RADIUS = QPointF(40, 72), 25.0
_RULER = QRectF(34, 47, 0, 52)


def drive_text(axis: Axis) -> str:
    """Return the kind of drive in two words."""
    driver = axis.driver
    if isinstance(driver, CoilDriver):
        return f"coils, {driver.sequence}"
    kind = "step/dir" if driver.kind == "step_direction" else "pulse pair"
    return f"{kind} ×{driver.microsteps}"


def _looks(axis: Axis) -> tuple[object, ...]:
    """Return what a card shows of an axis besides its position."""
    return axis.name, axis.unit, axis.positive, axis.limits.min, axis.limits.max, drive_text(axis)


class AxisCard(Pictured):
    """One axis of the machine."""

    def __init__(self, session: Session, index: int, compact: bool) -> None:
        super().__init__(session, session.selection_changed, session.theme_changed)
        self.index, self.compact = index, compact
        axis = self.axis = session.machine.axes[index]
        self.letter = figures.letters(session.machine)[index]
        self.setFixedHeight(116 if not compact else 58 if len(session.machine.axes) <= 9 else 46)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(f"Axis {axis.name}")
        self._pressed_at: QPointF | None = None
        for signal in (session.playhead_moved, session.run_changed):
            signal.connect(self.update)

    def position(self) -> float:
        """Return the position at the playhead, or where it is moved to by hand, in axis units."""
        return self.session.position_of(self.index)

    def paint_ground(self, painter: QPainter) -> Iterator[None]:
        theme, axis = self.session.theme, self.axis
        if self.index == self.session.selected:
            painter.fillRect(self.rect(), theme.color("paper"))
            painter.fillRect(QRectF(0, 0, 4, self.height()), theme.axis(self.index))
        painter.setPen(theme.pen(theme.color("edge"), 1))
        painter.drawLine(QPointF(0, self.height() - 0.5), QPointF(self.width(), self.height() - 0.5))
        line = 8 if self.height() > 50 else 2
        painter.setPen(theme.axis(self.index))
        painter.setFont(font("strong"))
        painter.drawText(QRectF(16, line, 18, 22), Qt.AlignmentFlag.AlignVCenter, self.letter)
        painter.setPen(theme.color("ink"))
        painter.setFont(font("heading"))
        name = painter.fontMetrics().elidedText(axis.name, Qt.TextElideMode.ElideRight, self.width() - 44)
        painter.drawText(QRectF(36, line, self.width() - 40, 22), Qt.AlignmentFlag.AlignVCenter, name)
        painter.setPen(theme.color("muted"))
        painter.setFont(font("small"))
        if self.compact:
            top = self.height() - 25
            painter.drawText(QRectF(16, top, 50, 22), Qt.AlignmentFlag.AlignVCenter, axis.unit)
            self._paint_drive(painter, QPointF(46, top + 11))
            return
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(QRectF(66, 65, self.width() - 78, 18), right, axis.unit)
        painter.drawText(QRectF(60, 86, self.width() - 72, 20), right, drive_text(axis))
        wide = painter.fontMetrics().horizontalAdvance(drive_text(axis))
        self._paint_drive(painter, QPointF(self.width() - 12 - wide - 25, 96))
        yield
        if axis.unit == "deg":
            self._paint_dial(painter)
        else:
            self._paint_ruler(painter)

    def paint_moving(self, painter: QPainter) -> None:
        theme, position = self.session.theme, self.position()
        if self.hasFocus():
            painter.setPen(theme.pen(theme.color("accent"), 2))
            painter.drawRect(QRectF(self.rect()).adjusted(5, 2, -2, -3))
        painter.setPen(theme.color("ink"))
        painter.setFont(font("figure"))
        figure = figures.position(position, 2)
        if painter.fontMetrics().horizontalAdvance(figure) > self.width() - 84:
            figure = figures.short(position)
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(QRectF(66, self.height() - 25 if self.compact else 44, self.width() - 78, 22), right, figure)
        self.setToolTip(f"{self.axis.name}: {figures.position(position)} {self.axis.unit}, {drive_text(self.axis)}")
        if self.compact:
            return
        hue = theme.axis(self.index)
        painter.setBrush(hue)
        if self.axis.unit == "deg":
            painter.setPen(theme.pen(hue, 3))
            painter.drawLine(_DIAL, self._on_dial(math.fmod(position, 360.0), _RADIUS - 7))
            painter.drawEllipse(_DIAL, 2.5, 2.5)
            return
        begin, span = figures.stretch(self.axis.limits.min, self.axis.limits.max, position)
        y = _RULER.bottom() - _RULER.height() * min(max((position - begin) / span, 0.0), 1.0)
        x = _RULER.left()
        painter.setPen(theme.pen(hue, 2))
        painter.drawLine(QPointF(x - 9, y), QPointF(x + 12, y))
        painter.drawPolygon(QPolygonF([QPointF(x + 10, y), QPointF(x + 20, y - 5), QPointF(x + 20, y + 5)]))

    def _paint_drive(self, painter: QPainter, left: QPointF) -> None:
        """Paint the kind of drive, 18 pixels wide: the turns of a coil, a train of pulses, or two of them."""
        theme, driver = self.session.theme, self.axis.driver
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(theme.pen(theme.color("muted"), 1.3))
        if isinstance(driver, CoilDriver):
            for k in range(3):
                painter.drawArc(QRectF(left.x() + 6 * k, left.y() - 4, 6, 8), 0, 180 * 16)
            return
        trains = ((-1.0, 4.0),) if driver.kind == "step_direction" else ((-1.0, 4.0), (5.0, -4.0))
        for base, up in trains:
            corners = ((0, 0), (3, 0), (3, -up), (7, -up), (7, 0), (11, 0), (11, -up), (15, -up), (15, 0), (18, 0))
            painter.drawPolyline(QPolygonF([left + QPointF(x, y + base + 2) for x, y in corners]))

    def _on_dial(self, degrees: float, distance: float) -> QPointF:
        angle = math.radians((1 if self.axis.positive == "cw" else -1) * degrees - 90)
        return _DIAL + QPointF(math.cos(angle), math.sin(angle)) * distance

    def _paint_dial(self, painter: QPainter) -> None:
        theme, sense = self.session.theme, 1 if self.axis.positive == "cw" else -1
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(theme.pen(theme.color("edge"), 1))
        painter.drawEllipse(_DIAL, _RADIUS, _RADIUS)
        low, high = self.axis.limits.min, self.axis.limits.max
        if low is not None and high is not None and high - low < 360:
            painter.setPen(theme.pen(theme.color("muted"), 2))
            box = QRectF(_DIAL.x() - _RADIUS, _DIAL.y() - _RADIUS, 2 * _RADIUS, 2 * _RADIUS)
            start = 90 - sense * float(low)
            painter.drawArc(box, round(start * 16), round(-sense * float(high - low) * 16))
        painter.setPen(theme.pen(theme.color("muted"), 1))
        for mark in range(0, 360, 30):
            painter.drawLine(self._on_dial(mark, _RADIUS - 4), self._on_dial(mark, _RADIUS))

    def _paint_ruler(self, painter: QPainter) -> None:
        limits, box = self.axis.limits, _RULER
        marks = 5 if limits.min is None or limits.max is None or limits.max <= limits.min else 8
        painter.setPen(self.session.theme.pen(self.session.theme.color("muted"), 1))
        painter.drawLine(box.topLeft(), box.bottomLeft())
        for mark in range(marks + 1):
            y = box.bottom() - box.height() * mark / marks
            painter.drawLine(QPointF(box.left(), y), QPointF(box.left() + (8 if mark in (0, marks) else 5), y))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.session.select(self.index)
        self._pressed_at = event.position() if event.button() == Qt.MouseButton.LeftButton else None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pressed_at is not None and (event.position() - self._pressed_at).manhattanLength() > 14:
            self.setCursor(Qt.CursorShape.ClosedHandCursor)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Let go of a dragged card: it takes the place it was dragged to."""
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        pressed, self._pressed_at = self._pressed_at, None
        if pressed is None or (event.position() - pressed).manhattanLength() <= 14:
            return
        to = self.index + math.floor(event.position().y() / self.height())
        self.move_to(min(max(to, 0), len(self.session.machine.axes) - 1))

    def mouseDoubleClickEvent(self, _event: QMouseEvent) -> None:
        self.rename()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        moved = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        way = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()))
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.session.select(self.index)
        elif way is not None and moved and 0 <= self.index + way < len(self.session.machine.axes):
            self.move_to(self.index + way)
        elif way is not None and not moved:
            self.session.select(self.session.selected + way)
        elif event.key() == Qt.Key.Key_F2:
            self.rename()
        elif event.key() == Qt.Key.Key_Delete:
            self.act(editing.delete_axis(self.index), f"delete {self.axis.name}")
        elif event.key() == Qt.Key.Key_D and moved:
            self.act(adding.duplicate_axis(self.index), f"duplicate {self.axis.name}")
        else:
            event.ignore()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        self.make_menu().popup(event.globalPos())

    def make_menu(self) -> QMenu:
        """Return the menu of what can be done with the axis."""
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        index, name = self.index, self.axis.name
        last = len(self.session.machine.axes) - 1
        for text, key, act, can in (
            ("Rename", "F2", self.rename, True),
            ("Duplicate", "Ctrl+D", lambda: self.act(adding.duplicate_axis(index), f"duplicate {name}"), True),
            ("Move up", "Ctrl+Up", lambda: self.move_to(index - 1), index > 0),
            ("Move down", "Ctrl+Down", lambda: self.move_to(index + 1), index < last),
            ("Delete", "Del", lambda: self.act(editing.delete_axis(index), f"delete {name}"), True),
        ):
            action = menu.addAction(f"{text}\t{key}")
            action.setEnabled(can and not self.session.running)
            action.triggered.connect(lambda _checked=False, a=act: a())
        return menu

    def act(self, edit: editing.Edit, name: str) -> bool:
        """Do an edit; tell why, if it cannot be done."""
        try:
            self.session.edit(edit, name)
        except KivantError as error:
            self.session.noticed.emit(str(error))
            return False
        return True

    def move_to(self, to: int) -> None:
        """Give the axis another place in the rail; it stays selected."""
        if to != self.index:
            session, name = self.session, f"place of {self.axis.name}"
            if self.act(editing.move_axis(self.index, to), name):
                session.select(to)

    def rename(self) -> None:
        """Type another name where the name is."""
        if self.session.running:
            return
        index = self.index

        def take(text: str, _goes_on: bool) -> None:
            old = self.session.machine.axes[index].name
            self.session.edit(editing.rename_axis(index, text), f"name of {old}")

        def show() -> str:
            axes = self.session.machine.axes
            return axes[index].name if index < len(axes) else ""

        field = ValueField(self.session, f"Name of {self.axis.name}", show, take, "heading")
        type_over(self.parentWidget(), QRect(self.x() + 30, self.y() + 4, self.width() - 36, 28), field)

    def focusInEvent(self, event: object) -> None:
        self.update()

    def focusOutEvent(self, event: object) -> None:
        self.update()


class Rail(QWidget):
    """All axes of the machine, one above the other; smaller cards where there are many."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setFixedWidth(RAIL_WIDTH)
        self.cards: list[AxisCard] = []
        self._inner = QWidget()
        self._column = QVBoxLayout(self._inner)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(0)
        self.add = QPushButton("+ axis")
        self.add.setProperty("kind", "plain")
        self.add.setToolTip("Add an axis, turning or sliding, on free lines of the board.")
        self.add.clicked.connect(lambda: self.offer_axes(self.add))
        self._area = QScrollArea()
        self._area.setWidgetResizable(True)
        self._area.setFrameShape(QScrollArea.Shape.NoFrame)
        self._area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._area.setWidget(self._inner)
        self._area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._area.viewport().setAutoFillBackground(False)
        self._inner.setAutoFillBackground(False)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 1, 0)
        outer.addWidget(self._area)
        outer.addWidget(self.add)
        session.machine_changed.connect(self.refresh)
        session.theme_changed.connect(self.update)
        session.run_changed.connect(lambda: self.add.setEnabled(not session.running))
        self.rebuild()

    def offer_axes(self, beside: QWidget) -> None:
        """Show the kinds of axes that can be added, beside what was pressed."""
        menu = self.make_menu()
        tall, below = menu.sizeHint().height(), beside.mapTo(self.window(), QPoint(0, beside.height()))
        fits = below.y() + tall <= self.window().height()
        menu.popup(beside.mapToGlobal(QPoint(0, beside.height() if fits else -tall)))

    def make_menu(self) -> QMenu:
        """Return the menu of the kinds of axes that can be added."""
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        for kind in adding.NEW_AXES:
            menu.addAction(kind).triggered.connect(lambda _checked=False, k=kind: self.add_axis(k))
        return menu

    def add_axis(self, kind: str) -> None:
        """Add an axis of a kind and select it."""
        try:
            self.session.edit(adding.add_axis(kind), "new axis")
        except KivantError as error:
            self.session.noticed.emit(str(error))
            return
        self.session.select(len(self.session.machine.axes) - 1)

    def sizeHint(self) -> QSize:
        return QSize(RAIL_WIDTH, 400)

    def refresh(self) -> None:
        """Show the machine as it is now; only other axes make other cards."""
        axes = self.session.machine.axes
        if [(c.axis.name, c.axis.unit) for c in self.cards] != [(a.name, a.unit) for a in axes]:
            self.rebuild()
        for card, axis in zip(self.cards, axes, strict=True):
            looks_same = _looks(card.axis) == _looks(axis)
            card.axis = axis
            if not looks_same:
                card.redraw()

    def rebuild(self) -> None:
        """Make the cards anew."""
        while (item := self._column.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        count = len(self.session.machine.axes)
        self.cards = [AxisCard(self.session, index, compact=count > 5) for index in range(count)]
        for card in self.cards:
            self._column.addWidget(card)
        self._column.addStretch(1)

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        theme = self.session.theme
        painter.fillRect(self.rect(), theme.color("sheet"))
        painter.setPen(theme.pen(theme.color("edge"), 1))
        painter.drawLine(QPointF(self.width() - 0.5, 0), QPointF(self.width() - 0.5, self.height()))
