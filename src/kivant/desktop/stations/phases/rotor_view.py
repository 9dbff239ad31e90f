"""Rotor and stator of the selected axis, drawn from its own figures, as they stand at the playhead."""

from __future__ import annotations

import math

from msgspec.structs import replace
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPolygonF
from PySide6.QtWidgets import QWidget

from kivant.core.drive.drivers import driver_kind
from kivant.core.drive.phases import COILS
from kivant.core.drive.rotor import RotorState, coils_flow_both_ways, rotor_state
from kivant.desktop.kit.painted import painted
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session


class RotorView(QWidget):
    """Coils lit and signed, the field's needle, and the rotor with its teeth, as an electrical turn sees it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setMinimumSize(230, 210)
        self.setAccessibleName("Rotor and stator")
        changes = session.playhead_moved, session.selection_changed, session.plan_changed, session.theme_changed
        for signal in (*changes, session.following_changed):
            signal.connect(self.update)

    def state(self) -> RotorState | None:
        """Return the rotor at the playhead, None without an axis."""
        axis = self.session.choice.axis
        return rotor_state(axis, self.session.instant.steps_moved) if axis else None

    def lag_deg(self) -> float | None:
        """Return how far the simulated rotor is behind the field now, electrical deg; None where none is simulated."""
        if self.session.instant.counted:
            return None
        return self.session.following.lag_at(self.session.choice.index, self.session.playhead.time_s)

    def words(self) -> str:
        """Return the state in a sentence."""
        state, lag = self.state(), self.lag_deg()
        if state is None:
            return ""
        simulated = "" if lag is None else f"{lag:.0f}° behind" if abs(lag) < 180 else "it slipped"
        behind = f", simulated: {simulated}" if simulated else ""
        return (
            f"field {state.electrical_deg:.1f}° electrical, rotor {state.mechanical_deg:.2f}° of a turn, "
            f"torque {state.torque:.2f} of one coil's{behind}"
        )

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        state, axis = self.state(), self.session.choice.axis
        if state is None or axis is None:
            return
        theme, hue = self.session.theme, self.session.theme.axis(self.session.choice.index)
        middle = QPointF(self.width() / 2, self.height() / 2)
        radius = min(self.width(), self.height()) / 2 - 24
        painter.setPen(theme.pen(theme.color("edge"), 1.5))
        painter.setBrush(theme.color("sheet"))
        painter.drawEllipse(middle, radius, radius)
        for k, name in enumerate(COILS):
            self._paint_coil(painter, middle, radius, k, name, state.coils[k])
        lag, full_steps = self.lag_deg(), axis.motor.full_steps_per_rev
        if lag is not None:  # the rotor stands where it is simulated, and not where the field is
            turned = state.mechanical_deg - driver_kind(axis.driver).sense(axis.driver) * lag * 4 / full_steps
            state = replace(state, mechanical_deg=turned)
        self._paint_rotor(painter, middle, radius * 0.52, state, full_steps)
        angle = math.radians(state.electrical_deg - 90)
        way = QPointF(math.cos(angle), math.sin(angle))
        tip = middle + way * radius * (0.36 + 0.2 * min(state.torque, 1.5))
        painter.setPen(theme.pen(theme.color("accent"), 4))
        painter.drawLine(middle, tip)
        side = QPointF(-way.y(), way.x())
        painter.setBrush(theme.color("accent"))
        painter.setPen(Qt.PenStyle.NoPen)
        if state.torque:
            painter.drawPolygon(QPolygonF([tip + way * 10, tip + side * 6, tip - side * 6]))
        if lag is not None:
            self._paint_lag(painter, middle, radius, state.electrical_deg - lag, slipped=abs(lag) >= 180)
        painter.setBrush(hue)
        painter.drawEllipse(middle, 4, 4)
        self.setToolTip(self.words())

    def _paint_lag(self, painter: QPainter, middle: QPointF, radius: float, deg: float, *, slipped: bool) -> None:
        """A thin needle where the simulated rotor stands within its electrical turn."""
        theme = self.session.theme
        hue = theme.color("bad") if slipped else theme.axis(self.session.choice.index)
        angle = math.radians(deg - 90)
        way = QPointF(math.cos(angle), math.sin(angle))
        painter.setPen(theme.pen(hue, 2.2, axis=1))
        painter.drawLine(middle, middle + way * radius * 0.66)
        painter.setPen(Qt.PenStyle.NoPen)

    def _paint_coil(self, painter: QPainter, middle: QPointF, radius: float, k: int, name: str, current: float) -> None:
        """A pole with its winding: thicker the more flows, signed where it may flow both ways."""
        theme, hue = self.session.theme, self.session.theme.axis(self.session.choice.index)
        painter.save()
        painter.translate(middle)
        painter.rotate(90.0 * k)
        wide, tall = radius * 0.30, radius * 0.26
        pole = QRectF(-wide / 2, -radius * 0.97, wide, tall)
        on = abs(current) > 1e-9
        painter.setPen(theme.pen(theme.color("ink") if on else theme.color("edge"), 1.4))
        painter.setBrush(theme.tint(hue, 0.10 + 0.25 * abs(current)) if on else Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(pole, 3, 3)
        painter.setPen(theme.pen(hue if on else theme.color("edge"), 1.0 + 2.2 * abs(current)))
        for turn in range(4):
            y = pole.top() + tall * (turn + 0.7) / 4.4
            painter.drawLine(QPointF(pole.left() - 4, y + 2), QPointF(pole.right() + 4, y - 2))
        painter.restore()
        angle = math.radians(90.0 * k - 90)
        at = middle + QPointF(math.cos(angle), math.sin(angle)) * (radius + 12)
        painter.setFont(font("strong"))
        painter.setPen(theme.color("ink" if on else "muted"))
        axis = self.session.choice.axis
        both_ways = axis is not None and coils_flow_both_ways(axis)
        sign = ("+" if current > 0 else "−") if on and both_ways else ""
        painter.drawText(QRectF(at.x() - 16, at.y() - 10, 32, 20), Qt.AlignmentFlag.AlignCenter, f"{name}{sign}")

    def _paint_rotor(
        self, painter: QPainter, middle: QPointF, radius: float, state: RotorState, full_steps: int
    ) -> None:
        """One tooth for four full steps, as a motor of two phases has; beyond what can be drawn, a fine rim."""
        theme, hue = self.session.theme, self.session.theme.axis(self.session.choice.index)
        teeth = max(full_steps // 4, 1)
        painter.save()
        painter.translate(middle)
        painter.rotate(state.mechanical_deg)
        painter.setPen(theme.pen(theme.color("edge"), 1))
        painter.setBrush(theme.tint(hue, 0.08))
        painter.drawEllipse(QPointF(0, 0), radius, radius)
        painter.setPen(Qt.PenStyle.NoPen)
        share = 360.0 / teeth
        for k in range(min(teeth, 120)):
            painter.setBrush(theme.tint(hue, 0.55 if k == 0 else 0.22))
            begin = round((90 - k * share - share / 4) * 16)
            outer = QRectF(-radius, -radius, 2 * radius, 2 * radius)
            painter.drawPie(outer, begin, round(share / 2 * 16))
        painter.setBrush(theme.color("sheet"))
        painter.drawEllipse(QPointF(0, 0), radius * 0.72, radius * 0.72)
        painter.setPen(theme.pen(hue, 2))
        painter.drawLine(QPointF(0, 0), QPointF(0, -radius * 0.72))
        painter.restore()
