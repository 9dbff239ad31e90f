"""A card of the axis rail: the axis with its dial or ruler, the position at the playhead, and its drive."""

from __future__ import annotations

import math
from collections.abc import Iterator

from PySide6.QtCore import QPointF, QRect, QRectF, Qt
from PySide6.QtGui import QContextMenuEvent, QKeyEvent, QMouseEvent, QPainter, QPolygonF
from PySide6.QtWidgets import QMenu, QSizePolicy

from kivant.core.drive.drivers import driver_kind
from kivant.core.machine import Axis, axes
from kivant.desktop.kit import figures
from kivant.desktop.kit.dial import on_dial, paint_ends, paint_pointer, paint_way, ruler_share
from kivant.desktop.kit.fill import fill
from kivant.desktop.kit.glyphs import GLYPHS, WIDTH
from kivant.desktop.kit.literal import literal
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.widgets.pictured import Pictured
from kivant.desktop.widgets.value_field import ValueField, type_over

_DIAL, _RADIUS = QPointF(40, 72), 25.0
_RULER = QRectF(34, 47, 0, 52)


def drive_text(axis: Axis) -> str:
    """Return the kind of drive in two words."""
    return driver_kind(axis.driver).summary(axis.driver)


def way_words(axis: Axis, way: tuple[float, float] | None) -> str:
    """Say where an axis goes at the playhead, and how far: the rest of a sentence; empty where it rests."""
    if way is None:
        return ""
    far, forward = abs(way[1] - way[0]), way[1] > way[0]
    whither = f"{figures.short(far)} {axis.unit} {'forward' if forward else 'back'} to {figures.position(way[1])}"
    return f"; goes {whither}"


def looks(axis: Axis) -> tuple[object, ...]:
    """Return what a card shows of an axis besides its position."""
    return axis.name, axis.unit, axis.positive, axis.limits.min, axis.limits.max, drive_text(axis)


class AxisCard(Pictured):
    """One axis of the machine."""

    def __init__(self, session: Session, index: int, compact: bool) -> None:
        super().__init__(session, session.selection_changed, session.theme_changed)
        self.index, self.compact = index, compact
        axis = self.axis = session.document.machine.axes[index]
        self.letter = figures.letters(session.document.machine)[index]
        self.setFixedHeight(116 if not compact else 58 if len(session.document.machine.axes) <= 9 else 46)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(f"Axis {axis.name}")
        self._pressed_at: QPointF | None = None
        self._followed: object = None
        for signal in (session.playhead_moved, session.run_changed):
            signal.connect(self._follow)

    def _follow(self) -> None:
        """Paint what moves, if it has: every new plan tells of the playhead, and most leave the axis where it is."""
        followed = self.position(), self.session.instant.way_of(self.index)
        if followed != self._followed:
            self._followed = followed
            self.update()

    def position(self) -> float:
        """Return the position at the playhead, or where it is moved to by hand, in axis units."""
        return self.session.instant.position_of(self.index)

    def paint_ground(self, painter: QPainter) -> Iterator[None]:
        theme, axis = self.session.theme, self.axis
        if self.index == self.session.choice.index:
            fill(painter, self.rect(), theme.color("paper"))
            fill(painter, QRectF(0, 0, 4, self.height()), theme.axis(self.index))
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
        self._paint_drive(painter, QPointF(self.width() - 12 - wide - 7 - WIDTH, 96))
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
        way = self.session.instant.way_of(self.index)
        words = f"{self.axis.name}: {figures.position(position)} {self.axis.unit}, {drive_text(self.axis)}"
        self.setToolTip(literal(f"{words}{way_words(self.axis, way)}"))
        if self.compact:
            return
        hue = theme.axis(self.index)
        painter.setBrush(hue)
        if self.axis.unit == "deg":
            if way is not None:
                paint_way(painter, theme, self.axis, hue, (_DIAL, _RADIUS + 4), (way[0], position, way[1]))
            painter.setBrush(hue)
            painter.setPen(theme.pen(hue, 3))
            paint_pointer(painter, self.axis, _DIAL, position, _RADIUS - 7)
            painter.drawEllipse(_DIAL, 2.5, 2.5)
            return
        y = _RULER.bottom() - _RULER.height() * min(max(ruler_share(self.axis, position), 0.0), 1.0)
        x = _RULER.left()
        painter.setPen(theme.pen(hue, 2))
        painter.drawLine(QPointF(x - 9, y), QPointF(x + 12, y))
        painter.drawPolygon(QPolygonF([QPointF(x + 10, y), QPointF(x + 20, y - 5), QPointF(x + 20, y + 5)]))

    def _paint_drive(self, painter: QPainter, left: QPointF) -> None:
        """Paint the glyph of the kind of drive."""
        theme = self.session.theme
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(theme.pen(theme.color("muted"), 1.3))
        GLYPHS[self.axis.driver.kind](painter, left)

    def _paint_dial(self, painter: QPainter) -> None:
        theme = self.session.theme
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(theme.pen(theme.color("edge"), 1))
        painter.drawEllipse(_DIAL, _RADIUS, _RADIUS)
        paint_ends(painter, theme, self.axis, _DIAL, _RADIUS)
        painter.setPen(theme.pen(theme.color("muted"), 1))
        for mark in range(0, 360, 30):
            ends = (on_dial(self.axis, _DIAL, mark, reach) for reach in (_RADIUS - 4, _RADIUS))
            painter.drawLine(*ends)

    def _paint_ruler(self, painter: QPainter) -> None:
        limits, box = self.axis.limits, _RULER
        marks = 5 if limits.min is None or limits.max is None or limits.max <= limits.min else 8
        painter.setPen(self.session.theme.pen(self.session.theme.color("muted"), 1))
        painter.drawLine(box.topLeft(), box.bottomLeft())
        for mark in range(marks + 1):
            y = box.bottom() - box.height() * mark / marks
            painter.drawLine(QPointF(box.left(), y), QPointF(box.left() + (8 if mark in (0, marks) else 5), y))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.session.choice.select(self.index)
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
        self.move_to(min(max(to, 0), len(self.session.document.machine.axes) - 1))

    def mouseDoubleClickEvent(self, _event: QMouseEvent) -> None:
        self.rename()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        moved = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        way = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()))
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.session.choice.select(self.index)
        elif way is not None and moved and 0 <= self.index + way < len(self.session.document.machine.axes):
            self.move_to(self.index + way)
        elif way is not None and not moved:
            self.session.choice.select(self.session.choice.index + way)
        elif event.key() == Qt.Key.Key_F2:
            self.rename()
        elif event.key() == Qt.Key.Key_Delete:
            self.session.try_edit(axes.delete_axis(self.index), f"delete {self.axis.name}")
        elif event.key() == Qt.Key.Key_D and moved:
            self.session.try_edit(axes.duplicate_axis(self.index), f"duplicate {self.axis.name}")
        else:
            event.ignore()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        self.make_menu().popup(event.globalPos())

    def make_menu(self) -> QMenu:
        """Return the menu of what can be done with the axis."""
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        index, name = self.index, self.axis.name
        last = len(self.session.document.machine.axes) - 1
        for text, key, act, can in (
            ("Rename", "F2", self.rename, True),
            (
                "Duplicate",
                "Ctrl+D",
                lambda: self.session.try_edit(axes.duplicate_axis(index), f"duplicate {name}"),
                True,
            ),
            ("Move up", "Ctrl+Up", lambda: self.move_to(index - 1), index > 0),
            ("Move down", "Ctrl+Down", lambda: self.move_to(index + 1), index < last),
            ("Delete", "Del", lambda: self.session.try_edit(axes.delete_axis(index), f"delete {name}"), True),
        ):
            action = menu.addAction(f"{text}\t{key}")
            action.setEnabled(can and not self.session.running.active)
            action.triggered.connect(lambda _checked=False, a=act: a())
        return menu

    def move_to(self, to: int) -> None:
        """Give the axis another place in the rail; it stays selected."""
        if to != self.index:
            session, name = self.session, f"place of {self.axis.name}"
            if self.session.try_edit(axes.move_axis(self.index, to), name):
                session.choice.select(to)

    def rename(self) -> None:
        """Type another name where the name is."""
        if self.session.running.active:
            return
        session, name = self.session, self.axis.name

        def take(text: str, _goes_on: bool) -> None:
            nonlocal name
            names = [axis.name for axis in session.document.machine.axes]
            if name in names:  # the axis may be gone, or elsewhere in the rail, while its name is typed
                index = names.index(name)
                session.edit(axes.rename_axis(index, text), f"name of {name}")
                name = session.document.machine.axes[index].name

        field = ValueField(session, f"Name of {name}", lambda: name, take, "heading")
        type_over(self.parentWidget(), QRect(self.x() + 30, self.y() + 4, self.width() - 36, 28), field)

    def focusInEvent(self, event: object) -> None:
        self.update()

    def focusOutEvent(self, event: object) -> None:
        self.update()
