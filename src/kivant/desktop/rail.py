"""The axis rail: a card per axis with its dial or ruler, the position at the playhead, and its drive."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPolygonF
from PySide6.QtWidgets import QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from kivant.core.machine import Axis, CoilDriver
from kivant.desktop import figures
from kivant.desktop.session import Session
from kivant.desktop.theme import font

RAIL_WIDTH = 166


def drive_text(axis: Axis) -> str:
    """Return the kind of drive in two words."""
    driver = axis.driver
    if isinstance(driver, CoilDriver):
        return f"coils, {driver.sequence}"
    kind = "step/dir" if driver.kind == "step_direction" else "pulse pair"
    return f"{kind} ×{driver.microsteps}"


class AxisCard(QWidget):
    """One axis of the machine."""

    def __init__(self, session: Session, index: int, compact: bool) -> None:
        super().__init__()
        self.session, self.index, self.compact = session, index, compact
        axis = self.axis = session.machine.axes[index]
        self.setFixedHeight(116 if not compact else 58 if len(session.machine.axes) <= 9 else 46)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(f"Axis {axis.name}")
        session.playhead_moved.connect(self.update)
        session.selection_changed.connect(self.update)

    def position(self) -> float:
        """Return the commanded position at the playhead, in axis units."""
        plan = self.session.plan
        if plan is None or self.index >= len(plan.axes):
            return 0.0
        axis = plan.axes[self.index]
        return float(axis.ideal(self.session.playhead_s)) / float(axis.steps_per_unit)

    def paintEvent(self, _event: QPaintEvent) -> None:
        session, theme = self.session, self.session.theme
        axis = self.axis
        hue, position = theme.axis(self.index), self.position()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.index == session.selected:
            painter.fillRect(self.rect(), theme.color("paper"))
            painter.fillRect(QRectF(0, 0, 4, self.height()), hue)
        painter.setPen(theme.pen(theme.color("edge"), 1))
        painter.drawLine(QPointF(0, self.height() - 0.5), QPointF(self.width(), self.height() - 0.5))
        if self.hasFocus():
            painter.setPen(theme.pen(theme.color("accent"), 2))
            painter.drawRect(QRectF(self.rect()).adjusted(5, 2, -2, -3))
        painter.setPen(hue)
        painter.setFont(font("strong"))
        line = 8 if self.height() > 50 else 2
        painter.drawText(
            QRectF(16, line, 18, 22),
            Qt.AlignmentFlag.AlignVCenter,
            figures.letters(session.machine)[self.index],
        )
        painter.setPen(theme.color("ink"))
        painter.setFont(font("heading"))
        name = painter.fontMetrics().elidedText(axis.name, Qt.TextElideMode.ElideRight, self.width() - 44)
        painter.drawText(QRectF(36, line, self.width() - 40, 22), Qt.AlignmentFlag.AlignVCenter, name)
        self.setToolTip(f"{axis.name}: {figures.position(position)} {axis.unit}, {drive_text(axis)}")
        top = self.height() - 25 if self.compact else 44
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.setFont(font("figure"))
        figure = figures.position(position, 2)
        if painter.fontMetrics().horizontalAdvance(figure) > self.width() - 84:
            figure = figures.short(position)
        painter.drawText(QRectF(66, top, self.width() - 78, 22), right, figure)
        painter.setPen(theme.color("muted"))
        painter.setFont(font("small"))
        if self.compact:
            painter.drawText(QRectF(16, top, 50, 22), Qt.AlignmentFlag.AlignVCenter, axis.unit)
            return
        painter.drawText(QRectF(66, 65, self.width() - 78, 18), right, axis.unit)
        painter.drawText(QRectF(60, 86, self.width() - 72, 20), right, drive_text(axis))
        if axis.unit == "deg":
            self._paint_dial(painter, axis, position)
        else:
            self._paint_ruler(painter, axis, position)

    def _paint_dial(self, painter: QPainter, axis: Axis, position: float) -> None:
        theme, middle, radius = self.session.theme, QPointF(40, 72), 25.0
        sense = 1 if axis.positive == "cw" else -1

        def at(degrees: float, distance: float) -> QPointF:
            angle = math.radians(sense * degrees - 90)
            return middle + QPointF(math.cos(angle), math.sin(angle)) * distance

        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(theme.pen(theme.color("edge"), 1))
        painter.drawEllipse(middle, radius, radius)
        low, high = axis.limits.min, axis.limits.max
        if low is not None and high is not None and high - low < 360:
            painter.setPen(theme.pen(theme.color("muted"), 2))
            box = QRectF(middle.x() - radius, middle.y() - radius, 2 * radius, 2 * radius)
            start = 90 - sense * float(low)
            painter.drawArc(box, round(start * 16), round(-sense * float(high - low) * 16))
        painter.setPen(theme.pen(theme.color("muted"), 1))
        for mark in range(12):
            painter.drawLine(at(mark * 30, radius - 4), at(mark * 30, radius))
        hue = theme.axis(self.index)
        painter.setPen(theme.pen(hue, 3))
        painter.drawLine(middle, at(math.fmod(position, 360.0), radius - 7))
        painter.setBrush(hue)
        painter.drawEllipse(middle, 2.5, 2.5)

    def _paint_ruler(self, painter: QPainter, axis: Axis, position: float) -> None:
        theme, x, top, bottom = self.session.theme, 34.0, 47.0, 99.0
        low, high = axis.limits.min, axis.limits.max
        if low is not None and high is not None and high > low:
            begin, span = float(low), float(high - low)
            marks = 8
        else:  # no limits: a stretch of rule around the position
            span = figures.nice_span(max(abs(position) * 0.4, 20.0))
            begin, marks = math.floor(position / span) * span, 5
        painter.setPen(theme.pen(theme.color("muted"), 1))
        painter.drawLine(QPointF(x, top), QPointF(x, bottom))
        for mark in range(marks + 1):
            y = bottom - (bottom - top) * mark / marks
            painter.drawLine(QPointF(x, y), QPointF(x + (8 if mark in (0, marks) else 5), y))
        share = min(max((position - begin) / span, 0.0), 1.0)
        y = bottom - (bottom - top) * share
        hue = theme.axis(self.index)
        painter.setPen(theme.pen(hue, 2))
        painter.setBrush(hue)
        painter.drawLine(QPointF(x - 9, y), QPointF(x + 12, y))
        painter.drawPolygon(QPolygonF([QPointF(x + 10, y), QPointF(x + 20, y - 5), QPointF(x + 20, y + 5)]))

    def mousePressEvent(self, _event: QMouseEvent) -> None:
        self.session.select(self.index)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.session.select(self.index)
        elif event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up):
            self.session.select(self.session.selected + (1 if event.key() == Qt.Key.Key_Down else -1))
        else:
            event.ignore()

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
        session.machine_changed.connect(self.rebuild)
        session.theme_changed.connect(self.update)
        self.rebuild()

    def sizeHint(self) -> QSize:
        return QSize(RAIL_WIDTH, 400)

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
