"""Torque over the time of a move: what it needs, what the motor has there, and the margin between."""

from __future__ import annotations

import numpy as np
from msgspec import Struct
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPolygonF

from kivant.core.motor.demand import Demand
from kivant.desktop.kit import figures
from kivant.desktop.kit.chart import Pane, Scale
from kivant.desktop.kit.theme import Theme

_MOST = 1.6  # of the greatest torque there is: what needs more is cut off


class TorquePane(Struct, frozen=True):
    """One pane of the chart; times count from the begin of the move."""

    demand: Demand
    begin_s: float
    margin: float
    box: QRectF
    time: Scale

    def paint(self, painter: QPainter, theme: Theme, hue: QColor) -> None:
        """Paint needed and available torque, and shade what the margin keeps back."""
        needed, available = np.abs(self.demand.needed_nm), self.demand.available_nm
        times = self.demand.times_s - self.begin_s
        most = float(np.max(available, initial=0.0)) or 1e-9
        pane = Pane(self.box, self.time, min(max(most, float(np.max(needed, initial=0.0))), _MOST * most) * 1.1)
        pane.paint_scale(painter, theme, f"torque at the rotor, Nm: {self._words()}", 2)
        upper, lower = pane.line(times, available), pane.line(times, available / self.margin)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.tint(theme.color("muted"), 0.22))
        painter.drawPolygon(QPolygonF([*upper.toList(), *reversed(lower.toList())]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        over = self.demand.ratio > 1 / self.margin
        self._paint_jump(painter, theme, pane)
        pane.paint_area(painter, theme, theme.color("bad") if over else hue, times, np.minimum(needed, pane.top), 1.4)
        painter.setPen(theme.pen(theme.color("ink"), 1.6))
        painter.drawPolyline(upper)

    def _words(self) -> str:
        share = f"the move needs {figures.rough3(self.demand.ratio)} of what there is"
        jump = self.demand.jump_ratio
        if jump and jump >= self.demand.ratio:
            return f"a jump of the speed needs {figures.rough3(jump)} of what there is"
        return share

    def _paint_jump(self, painter: QPainter, theme: Theme, pane: Pane) -> None:
        """A stem at the begin, as high as the torque that the jump of the speed there needs."""
        if not self.demand.jump_ratio or not len(self.demand.available_nm):
            return
        x = self.time.at(0.0)
        high = min(self.demand.jump_ratio * float(self.demand.available_nm[0]), pane.top)
        token = "bad" if self.demand.jump_ratio > 1 / self.margin else "accent"
        painter.setPen(theme.pen(theme.color("bad" if token == "bad" else "accent"), 3))
        painter.drawLine(QLineF(QPointF(x, pane.box.bottom()), QPointF(x, pane.y.at(high))))
