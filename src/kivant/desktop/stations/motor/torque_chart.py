"""Torque over speed: what the motor can pull, what the margin leaves of it, the load, and where both meet."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QWidget

from kivant.core.machine import Axis
from kivant.core.motor.usable import Ability, pulled_nm
from kivant.core.travel.conversion import rotor_turns_per_unit
from kivant.desktop.kit import figures
from kivant.desktop.kit.chart import Pane, Scale
from kivant.desktop.kit.literal import literal
from kivant.desktop.kit.painted import painted
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session

_LEFT, _RIGHT, _TOP, _BOTTOM = 64.0, 20.0, 34.0, 46.0
_WORDS = 40.0  # pixels above the curve, for the words at two speeds
_POINTS = 240


class TorqueChart(QWidget):
    """Curves of the chosen axis; the one before the latest change stays as a dashed ghost."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setMinimumSize(260, 180)
        self._shown: tuple[str, np.ndarray, np.ndarray] | None = None  # the axis, speeds and torques now
        self._ghost: tuple[np.ndarray, np.ndarray] | None = None
        self.most = 1.0
        session.theme_changed.connect(self.update)

    def show_axis(self, axis: Axis, found: Ability) -> None:
        """Show the curves of an axis; of the same axis, what was shown before becomes the ghost."""
        per_unit = float(rotor_turns_per_unit(axis)) * axis.motor.full_steps_per_rev
        far = max(found.speed, axis.limits.speed)
        self.most = min(max(1.25 * far, 2.0 * axis.limits.speed), max(float(found.curve[-1, 0]) / per_unit, 1.1 * far))
        speeds = np.linspace(0.0, self.most, _POINTS)
        torques = pulled_nm(found.drive, axis.motor, speeds * per_unit)
        if self._shown is not None and self._shown[0] != axis.name:
            self._ghost = None
        elif self._shown is not None and not (
            np.array_equal(self._shown[1], speeds) and np.array_equal(self._shown[2], torques)
        ):
            self._ghost = self._shown[1:]
        self._shown = axis.name, speeds, torques
        unit = axis.unit
        told = (
            f"At {figures.short(axis.limits.speed)} {unit}/s, the axis's speed, {axis.name}'s motor can pull "
            f"{figures.rough3(float(np.interp(axis.limits.speed, speeds, torques)))} Nm; its load is "
            f"{figures.rough3(found.load.worst_nm())} Nm."
        )
        self.setToolTip(literal(told))
        self.setAccessibleName(f"Torque of {axis.name} over speed")
        self.update()

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        axis = self.session.choice.axis
        if axis is None or self._shown is None:
            return
        theme = self.session.theme
        found, hue = self.session.bench.abilities.of(self.session.choice.index), theme.axis(self.session.choice.index)
        _name, speeds, torques = self._shown
        box = QRectF(_LEFT, _TOP, self.width() - _LEFT - _RIGHT, self.height() - _TOP - _BOTTOM)
        x = Scale(0.0, self.most, box.left(), box.right())
        top = max(float(torques.max()), found.load.worst_nm(), 1e-9) * box.height() / max(box.height() - _WORDS, 1.0)
        pane = Pane(box, x, top)
        pane.paint_scale(painter, theme, "torque at the rotor, Nm", max(int(box.height() / 48), 2))
        self._paint_speeds(painter, axis, x, box)
        if self._ghost is not None:
            painter.setPen(theme.pen(theme.color("muted"), 1, axis=1))
            within = self._ghost[0] <= self.most
            painter.drawPolyline(pane.line(self._ghost[0][within], np.minimum(self._ghost[1][within], top)))
        pane.paint_area(painter, theme, hue, speeds, torques / found.margin, 1.2)
        painter.setPen(theme.pen(theme.color("ink"), 2))
        painter.drawPolyline(pane.line(speeds, torques))
        radians = 2 * math.pi * float(rotor_turns_per_unit(axis))
        load = found.load.worst_nm() + found.load.viscous_nms * speeds * radians
        painter.setPen(theme.pen(theme.color("bad"), 1.6, axis=1))
        painter.drawPolyline(pane.line(speeds, np.minimum(load, top)))
        self._paint_mark(painter, pane, axis.limits.speed, "its speed", "muted", 0)
        self._paint_mark(painter, pane, found.speed, "usable", "accent", 1)
        if found.speed <= self.most:
            at = pane.point(found.speed, float(np.interp(found.speed, speeds, torques)) / found.margin)
            painter.setPen(theme.pen(theme.color("accent"), 2))
            painter.setBrush(theme.color("sheet"))
            painter.drawEllipse(at, 5, 5)

    def _paint_speeds(self, painter: QPainter, axis: Axis, x: Scale, box: QRectF) -> None:
        theme, step = self.session.theme, x.step(84)
        painter.setFont(font("small"))
        for k in x.ticks(step):
            at = x.at(k * step)
            painter.setPen(theme.pen(theme.tint(theme.color("edge"), 0.55), 1))
            painter.drawLine(QPointF(at, box.top()), QPointF(at, box.bottom()))
            painter.setPen(theme.color("muted"))
            area = QRectF(min(at - 40, self.width() - 80), box.bottom() + 3, 80, 18)
            painter.drawText(area, Qt.AlignmentFlag.AlignHCenter, figures.short(k * step))
        per_turn = float(rotor_turns_per_unit(axis)) * axis.motor.full_steps_per_rev
        title = f"speed, {axis.unit}/s; 1 {axis.unit}/s is {figures.short(per_turn)} full steps/s"
        painter.drawText(QRectF(box.left(), box.bottom() + 22, box.width(), 18), Qt.AlignmentFlag.AlignHCenter, title)

    def _paint_mark(self, painter: QPainter, pane: Pane, speed: float, word: str, token: str, row: int) -> None:
        """Paint a speed as an upright line with its word at the top."""
        if not 0 <= speed <= self.most:
            return
        theme, at = self.session.theme, pane.x.at(speed)
        painter.setPen(theme.pen(theme.color("accent" if token == "accent" else "muted"), 1.2, axis=2))
        painter.drawLine(QPointF(at, pane.box.top()), QPointF(at, pane.box.bottom()))
        painter.setFont(font("small"))
        text = f"{word} {figures.rough3(speed)}"
        wide = painter.fontMetrics().horizontalAdvance(text) + 4
        left = at + 4 if at + 4 + wide < pane.box.right() else at - 4 - wide
        painter.drawText(QRectF(left, pane.box.top() + 2 + 17 * row, wide, 17), Qt.AlignmentFlag.AlignLeft, text)
