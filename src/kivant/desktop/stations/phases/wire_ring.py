"""The loose wires around a motor: what was read between them, and the windings that follow."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPainterPath
from PySide6.QtWidgets import QWidget

from kivant.app.finder import WindingFinder
from kivant.core.drive.windings import Winding
from kivant.desktop.kit.painted import painted
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session

_RADIUS = 13.0


class WireRing(QWidget):
    """Wires to click: one, then another, and the meter goes between them."""

    picked = Signal(str, str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.finder = WindingFinder()
        self.first: str | None = None
        self.reached = 0
        self.setMinimumSize(280, 260)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Wires of the motor")
        self.setToolTip("Click one wire and then another to measure between them; with the keys: arrows, and Space.")
        session.theme_changed.connect(self.update)

    def _geometry(self) -> tuple[QPointF, float]:
        return QPointF(self.width() / 2, self.height() / 2), min(self.width() - 130, self.height() - 60) / 2

    def place(self, number: int) -> QPointF:
        """Return where a wire ends."""
        middle, radius = self._geometry()
        angle = 2 * math.pi * number / len(self.finder.wires) - math.pi / 2
        return middle + QPointF(math.cos(angle), math.sin(angle)) * radius

    def pick(self, number: int) -> None:
        """Put one tip of the meter to a wire; the second one makes a pair."""
        wire = self.finder.wires[number]
        self.reached = number
        if self.first is None or self.first == wire:
            self.first = wire if self.first is None else None
        else:
            first, self.first = self.first, None
            self.picked.emit(first, wire)
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for number in range(len(self.finder.wires)):
            off = self.place(number) - event.position()
            if math.hypot(off.x(), off.y()) <= _RADIUS + 6:
                self.pick(number)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        way = {Qt.Key.Key_Right: 1, Qt.Key.Key_Down: 1, Qt.Key.Key_Left: -1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()))
        if way is not None:
            self.reached = (self.reached + way) % len(self.finder.wires)
            self.update()
        elif event.key() in (Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter) and not event.isAutoRepeat():
            self.pick(self.reached)
        else:
            event.ignore()

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        theme, finder = self.session.theme, self.finder
        middle, radius = self._geometry()
        painter.setPen(theme.pen(theme.color("edge"), 1.5))
        painter.setBrush(theme.color("sheet"))
        painter.drawEllipse(middle, radius * 0.72, radius * 0.72)
        self._paint_readings(painter)
        self._paint_windings(painter)
        pair = finder.pair or ()
        for number, wire in enumerate(finder.wires):
            self._paint_wire(painter, number, wire, asked=wire in pair or wire == self.first)

    def _paint_wire(self, painter: QPainter, number: int, wire: str, *, asked: bool) -> None:
        theme, (middle, radius), at = self.session.theme, self._geometry(), self.place(number)
        inner = middle + (at - middle) * 0.72
        painter.setPen(theme.pen(theme.color("accent" if asked else "ink"), 3 if asked else 2))
        painter.drawLine(inner, at)
        painter.setBrush(theme.color("accent" if asked else "sheet"))
        painter.drawEllipse(at, _RADIUS - 4, _RADIUS - 4)
        if self.hasFocus() and number == self.reached:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(theme.pen(theme.color("accent"), 2))
            painter.drawEllipse(at, _RADIUS, _RADIUS)
        off = at - middle
        painter.setFont(font("strong"))
        painter.setPen(theme.color("ink"))
        shown = painter.fontMetrics().elidedText(wire, Qt.TextElideMode.ElideRight, 60)
        if abs(off.x()) < radius * 0.3:
            y = at.y() + (_RADIUS if off.y() > 0 else -_RADIUS - 18)
            painter.drawText(QRectF(at.x() - 40, y, 80, 18), Qt.AlignmentFlag.AlignCenter, shown)
        elif off.x() > 0:
            box = QRectF(at.x() + _RADIUS + 2, at.y() - 9, 64, 18)
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, shown)
        else:
            box = QRectF(at.x() - _RADIUS - 66, at.y() - 9, 64, 18)
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, shown)

    def _inner(self, wire: str) -> QPointF:
        middle, _radius = self._geometry()
        return middle + (self.place(self.finder.wires.index(wire)) - middle) * 0.70

    def _paint_readings(self, painter: QPainter) -> None:
        """Draw what was read as chords: ohms in full, no connection in dots."""
        theme = self.session.theme
        known = bool(self.finder.found.windings or self.finder.found.common)
        for reading in self.finder.readings:
            begin, end = (self._inner(wire) for wire in reading.wires)
            joined = reading.seen != "open"
            color = theme.color("edge") if known or not joined else theme.axis(self.session.choice.index)
            painter.setPen(theme.pen(color, 2 if joined else 1.2, None if joined else 2))
            painter.drawLine(begin, end)
            if joined and not known:
                text = reading.seen if isinstance(reading.seen, str) else f"{reading.seen:.3g} ohm"
                at = QPointF((begin.x() + end.x()) / 2, (begin.y() + end.y()) / 2)
                self._label(painter, at, text)

    def _label(self, painter: QPainter, at: QPointF, text: str) -> None:
        theme = self.session.theme
        painter.setFont(font("small"))
        wide = painter.fontMetrics().horizontalAdvance(text) + 8
        box = QRectF(at.x() - wide / 2, at.y() - 9, wide, 18)
        painter.fillRect(box, theme.color("sheet"))
        painter.setPen(theme.color("ink"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)

    def _paint_windings(self, painter: QPainter) -> None:
        found = self.finder.found
        hue = self.session.theme.axis(self.session.choice.index)
        middle, radius = self._geometry()
        if found.common is not None:
            ohm = f"{found.half_ohm:.2g} ohm each" if found.half_ohm is not None else "common wire"
            for wire in found.ends:
                self._coil(painter, self._inner(wire), middle + (self._inner(wire) - middle) * 0.15)
            painter.setPen(self.session.theme.pen(hue, 2))
            painter.drawLine(middle, self._inner(found.common))
            self._label(painter, middle + QPointF(0, radius * 0.3), ohm)
        for winding in found.windings:
            self._paint_winding(painter, winding)

    def _paint_winding(self, painter: QPainter, winding: Winding) -> None:
        begin, end = (self._inner(wire) for wire in winding.ends)
        middle = QPointF((begin.x() + end.x()) / 2, (begin.y() + end.y()) / 2)
        theme, hue = self.session.theme, self.session.theme.axis(self.session.choice.index)
        if winding.tap is not None:
            self._coil(painter, begin, middle)
            self._coil(painter, middle, end)
            painter.setPen(theme.pen(hue, 2))
            painter.drawLine(middle, self._inner(winding.tap))
        else:
            self._coil(painter, begin, end)
        if winding.ohm is not None:
            side = QPointF(end.y() - begin.y(), begin.x() - end.x())
            length = math.hypot(side.x(), side.y()) or 1.0
            self._label(painter, middle + side * (20 / length), f"{winding.ohm:.2g} ohm")

    def _coil(self, painter: QPainter, begin: QPointF, end: QPointF) -> None:
        """Draw the turns of a coil from one point to another."""
        along = end - begin
        length = math.hypot(along.x(), along.y())
        if length < 1:
            return
        way, turns = along * (1 / length), max(int(length / 13), 3)
        side = QPointF(-way.y(), way.x())
        path = QPainterPath(begin)
        for k in range(turns):
            half, whole = begin + way * (length * (k + 0.5) / turns), begin + way * (length * (k + 1) / turns)
            path.quadTo(half + side * 12, whole)
        painter.setPen(self.session.theme.pen(self.session.theme.axis(self.session.choice.index), 2.4))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(path)
