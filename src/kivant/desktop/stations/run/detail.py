"""The selected axis close up: coil lamps and row, or pulse and direction, and its lines around the playhead."""

from __future__ import annotations

import math
from collections.abc import Iterator

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QVBoxLayout

from kivant.core.drive.drivers import driver_kind
from kivant.core.drive.phases import COILS, Row
from kivant.core.drive.rotor import row_in_force
from kivant.core.plan import AxisPlan
from kivant.core.travel.conversion import steps_per_full_step
from kivant.desktop.kit import figures
from kivant.desktop.kit.fill import fill
from kivant.desktop.kit.literal import literal
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.widgets.line_strip import LineStrip
from kivant.desktop.widgets.pictured import Pictured

_RING = 170  # width of the part that shows the row
_HEAD = 28


class Detail(Pictured):
    """Lamps and line levels of the selected axis at the playhead."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, session.selection_changed, session.plan_changed, session.theme_changed)
        self.setMinimumHeight(168)
        self.setAccessibleName("Close-up of the selected axis")
        self.strip = LineStrip(session)
        column = QVBoxLayout(self)
        column.setContentsMargins(_RING, _HEAD, 0, 0)
        column.addWidget(self.strip)
        session.playhead_moved.connect(self._follow)

    def _follow(self) -> None:
        self.update(0, 0, self.width(), _HEAD)
        self.update(0, _HEAD, _RING, self.height() - _HEAD)

    def heading(self) -> str:
        """Return the axis's state at the playhead in a sentence."""
        axis = self.session.instant.axis_plan
        if axis is None:
            return "No axis selected."
        steps = self.session.instant.steps
        if self.session.instant.counted:
            how = "going on after a stop" if self.session.running.going_on else "moved by hand"
            return f"step {figures.grouped(steps)} counted, {how}"
        exact = axis.ideal_at(self.session.playhead.time_s)
        speed = axis.train.speed_at(self.session.playhead.time_s)
        return f"step {figures.grouped(steps)}, exactly {figures.position(exact, 4)}, at {figures.short(speed)} steps/s"

    def _title(self, painter: QPainter, axis: AxisPlan) -> str:
        painter.setFont(font("heading"))
        return painter.fontMetrics().elidedText(axis.name, Qt.TextElideMode.ElideRight, 180)

    def paint_ground(self, painter: QPainter) -> Iterator[None]:
        axis, theme = self.session.instant.axis_plan, self.session.theme
        if axis is None:
            return
        title = self._title(painter, axis)
        painter.setPen(theme.color("ink"))
        painter.drawText(QRectF(0, 0, 190, 22), Qt.AlignmentFlag.AlignVCenter, title)
        yield
        table = driver_kind(axis.axis.driver).rows(axis.axis.driver)
        if table is None:
            return
        middle, radius = self._ring()
        painter.setPen(theme.pen(theme.color("edge"), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(middle, radius, radius)
        for index in range(len(table)):
            self._paint_row(painter, len(table), index, lit=False)

    def paint_moving(self, painter: QPainter) -> None:
        theme, axis = self.session.theme, self.session.instant.axis_plan
        if axis is None or self.session.planning.plan is None:
            return
        title = self._title(painter, axis)
        left = painter.fontMetrics().horizontalAdvance(title) + 12
        painter.setFont(font("small"))
        painter.setPen(theme.color("muted"))
        text = painter.fontMetrics().elidedText(self.heading(), Qt.TextElideMode.ElideRight, self.width() - left)
        painter.drawText(QRectF(left, 1, self.width() - left, 22), Qt.AlignmentFlag.AlignVCenter, text)
        table = driver_kind(axis.axis.driver).rows(axis.axis.driver)
        if table is not None:
            self._paint_lamps(painter, table)
        else:
            self._paint_pulse(painter, axis)

    # Coils

    def _ring(self) -> tuple[QPointF, float]:
        return QPointF(78, 30 + (self.height() - 30) / 2), min((self.height() - 30) / 2 - 12, 66.0)

    def _paint_row(self, painter: QPainter, count: int, index: int, *, lit: bool) -> None:
        theme, hue = self.session.theme, self.session.theme.axis(self.session.choice.index)
        middle, radius = self._ring()
        angle = 2 * math.pi * index / count - math.pi / 2
        at = middle + QPointF(math.cos(angle), math.sin(angle)) * radius
        painter.setFont(font("small"))
        painter.setPen(theme.pen(hue if lit else theme.color("edge"), 1.5))
        painter.setBrush(hue if lit else theme.color("sheet"))
        painter.drawEllipse(at, 10, 10)
        painter.setPen(theme.color("sheet" if lit else "muted"))
        painter.drawText(QRectF(at.x() - 10, at.y() - 10, 20, 20), Qt.AlignmentFlag.AlignCenter, str(index))

    def _paint_lamps(self, painter: QPainter, table: tuple[Row, ...]) -> None:
        """The row in force, filled on the ring of rows, and its coils as lamps in the middle."""
        theme, hue = self.session.theme, self.session.theme.axis(self.session.choice.index)
        axis = self.session.choice.axis
        now = row_in_force(axis, self.session.instant.steps_moved) if axis else 0
        self._paint_row(painter, len(table), now, lit=True)
        middle, word = self._ring()[0], table[now].word
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
            f"Row {now} of {len(table)}: word {word:04b}, coil A on the right; "
            f"field at {table[now].field_deg:g}° electrical, torque {table[now].torque:.2f} of one coil's."
        )

    # Pulses

    def _paint_direction(self, painter: QPainter, top: float, sign: int) -> None:
        theme = self.session.theme
        painter.drawText(QRectF(0, top, 150, 18), 0, "direction")
        painter.setPen(theme.color("ink"))
        painter.setFont(font("strong"))
        painter.drawText(QRectF(64, top, 90, 18), 0, "positive" if sign > 0 else "negative")
        painter.setPen(theme.pen(theme.axis(self.session.choice.index), 2))
        y, tip = top + 31, 140.0 if sign > 0 else 4.0
        painter.drawLine(QPointF(4, y), QPointF(140, y))
        painter.drawLine(QPointF(tip, y), QPointF(tip - sign * 8, y - 5))
        painter.drawLine(QPointF(tip, y), QPointF(tip - sign * 8, y + 5))

    def _paint_pulse(self, painter: QPainter, axis: AxisPlan) -> None:
        """Direction as an arrow, pulses as a count, the microstep within its full step as a bar."""
        theme, hue = self.session.theme, self.session.theme.axis(self.session.choice.index)
        train = axis.train
        taken = train.taken(self.session.playhead.time_s)
        sign = train.sign_of(max(taken - 1, 0)) if train.count else 1
        position = self.session.instant.steps
        microsteps = int(steps_per_full_step(axis.axis))
        within = position % microsteps
        top = 44.0
        painter.setPen(theme.color("muted"))
        painter.setFont(font("small"))
        painter.drawText(QRectF(0, top + 46, 150, 18), 0, f"microstep {within} of {microsteps}")
        if not self.session.instant.counted:
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
            fill(painter, QRectF(2, top + 68, 140 * (within + 1) / microsteps, 12), hue)
        self.setToolTip(literal(f"{axis.name}: position {position} in microsteps, last direction {sign:+d}."))
