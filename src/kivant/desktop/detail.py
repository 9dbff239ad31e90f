"""The selected axis close up: coil lamps and row, or pulse and direction, and its lines around the playhead."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from kivant.core.machine import CoilDriver
from kivant.core.phases import COILS, rows
from kivant.core.plan import AxisPlan
from kivant.desktop import figures
from kivant.desktop.session import Session
from kivant.desktop.strip import paint_strip
from kivant.desktop.theme import font

_RING = 170  # width of the part that shows the row


class Detail(QWidget):
    """Lamps and line levels of the selected axis at the playhead."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setMinimumHeight(168)
        self.setAccessibleName("Selected axis close up")
        for signal in (
            session.playhead_moved,
            session.selection_changed,
            session.plan_changed,
            session.theme_changed,
        ):
            signal.connect(self.update)

    def heading(self) -> str:
        """Return the axis's state at the playhead in a sentence."""
        axis = self.session.axis_plan
        if axis is None:
            return "No axis to look at."
        steps = self.session.steps_here
        if self.session.counted_by_hand:
            return f"step {figures.grouped(steps)} counted, moved by hand"
        exact = float(axis.ideal(self.session.playhead_s))
        speed = float(axis.train.speed(self.session.playhead_s))
        return f"step {figures.grouped(steps)}, exactly {figures.position(exact, 4)}, at {figures.short(speed)} steps/s"

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, axis = self.session.theme, self.session.axis_plan
        if axis is None or self.session.plan is None:
            return
        painter.setFont(font("heading"))
        painter.setPen(theme.color("ink"))
        title = painter.fontMetrics().elidedText(axis.name, Qt.TextElideMode.ElideRight, 180)
        painter.drawText(QRectF(0, 0, 190, 22), Qt.AlignmentFlag.AlignVCenter, title)
        left = painter.fontMetrics().horizontalAdvance(title) + 12
        painter.setFont(font("small"))
        painter.setPen(theme.color("muted"))
        text = painter.fontMetrics().elidedText(self.heading(), Qt.TextElideMode.ElideRight, self.width() - left)
        painter.drawText(QRectF(left, 1, self.width() - left, 22), Qt.AlignmentFlag.AlignVCenter, text)
        driver = axis.axis.driver
        if isinstance(driver, CoilDriver):
            self._paint_ring(painter, axis, driver)
        else:
            self._paint_pulse(painter, axis)
        paint_strip(painter, self.session, axis, QRectF(_RING, 28, self.width() - _RING, self.height() - 28))

    def _paint_ring(self, painter: QPainter, axis: AxisPlan, driver: CoilDriver) -> None:
        """The sequence as a ring of rows, the one in force filled, its coils as lamps in the middle."""
        theme, hue = self.session.theme, self.session.theme.axis(self.session.selected)
        table = rows(driver.sequence)
        now = self.session.steps_moved % len(table)
        middle = QPointF(78, 30 + (self.height() - 30) / 2)
        radius = min((self.height() - 30) / 2 - 12, 66.0)
        painter.setFont(font("small"))
        painter.setPen(theme.pen(theme.color("edge"), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(middle, radius, radius)
        for index in range(len(table)):
            angle = 2 * math.pi * index / len(table) - math.pi / 2
            at = middle + QPointF(math.cos(angle), math.sin(angle)) * radius
            painter.setPen(theme.pen(hue if index == now else theme.color("edge"), 1.5))
            painter.setBrush(hue if index == now else theme.color("sheet"))
            painter.drawEllipse(at, 10, 10)
            painter.setPen(theme.color("sheet" if index == now else "muted"))
            painter.drawText(QRectF(at.x() - 10, at.y() - 10, 20, 20), Qt.AlignmentFlag.AlignCenter, str(index))
        word = table[now].word
        painter.setFont(font("strong"))
        for bit, coil in enumerate(COILS):
            on = bool(word >> bit & 1)
            at = middle + QPointF((bit - 1.5) * 19, -6)
            painter.setPen(theme.pen(hue if on else theme.color("muted"), 1.4))
            painter.setBrush(hue if on else Qt.BrushStyle.NoBrush)
            painter.drawEllipse(at, 6, 6)
            painter.setPen(theme.color("ink" if on else "muted"))
            painter.drawText(QRectF(at.x() - 9, at.y() - 27, 18, 18), Qt.AlignmentFlag.AlignCenter, coil)
        painter.setFont(font("small"))
        painter.setPen(theme.color("muted"))
        text = f"{word:04b}  hex {word:X}"
        painter.drawText(QRectF(middle.x() - 50, middle.y() + 8, 100, 18), Qt.AlignmentFlag.AlignCenter, text)
        self.setToolTip(
            f"Row {now} of {driver.sequence}: word {word:04b}, coil A on the right; "
            f"field at {table[now].field_deg:g}° electrical, torque {table[now].torque:.2f} of one coil's."
        )

    def _paint_direction(self, painter: QPainter, top: float, sign: int) -> None:
        theme = self.session.theme
        painter.drawText(QRectF(0, top, 150, 18), 0, "direction")
        painter.setPen(theme.color("ink"))
        painter.setFont(font("strong"))
        painter.drawText(QRectF(64, top, 90, 18), 0, "positive" if sign > 0 else "negative")
        painter.setPen(theme.pen(theme.axis(self.session.selected), 2))
        y, tip = top + 31, 140.0 if sign > 0 else 4.0
        painter.drawLine(QPointF(4, y), QPointF(140, y))
        painter.drawLine(QPointF(tip, y), QPointF(tip - sign * 8, y - 5))
        painter.drawLine(QPointF(tip, y), QPointF(tip - sign * 8, y + 5))

    def _paint_pulse(self, painter: QPainter, axis: AxisPlan) -> None:
        """Direction as an arrow, pulses as a count, the microstep within its full step as a bar."""
        theme, hue = self.session.theme, self.session.theme.axis(self.session.selected)
        driver, train = axis.axis.driver, axis.train
        taken = train.taken(self.session.playhead_s)
        sign = train.sign_of(max(taken - 1, 0)) if train.count else 1
        position = self.session.steps_here
        microsteps = 1 if isinstance(driver, CoilDriver) else driver.microsteps
        within = position % microsteps
        top = 44.0
        painter.setPen(theme.color("muted"))
        painter.setFont(font("small"))
        painter.drawText(QRectF(0, top + 46, 150, 18), 0, f"microstep {within} of {microsteps}")
        if not self.session.counted_by_hand:
            self._paint_direction(painter, top, sign)
        cell = 140.0 / microsteps
        for index in range(microsteps if microsteps <= 32 else 0):
            box = QRectF(2 + index * cell, top + 68, max(cell - 2, 1), 12)
            painter.setPen(theme.pen(theme.color("edge"), 1))
            painter.setBrush(hue if index == within else Qt.BrushStyle.NoBrush)
            painter.drawRect(box)
        if microsteps > 32:
            painter.setPen(theme.pen(theme.color("edge"), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(2, top + 68, 140, 12))
            painter.fillRect(QRectF(2, top + 68, 140 * (within + 1) / microsteps, 12), hue)
        self.setToolTip(f"{axis.name}: position {position} in microsteps, last direction {sign:+d}.")
