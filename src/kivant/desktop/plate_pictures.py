"""The small live pictures on the chain's plates, 40 by 28 pixels around a middle point."""

from __future__ import annotations

import math

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPolygonF

from kivant.core.machine import Axis, Belt, CoilDriver, Screw, Stage
from kivant.core.travel import stage_ratio
from kivant.desktop.session import Session
from kivant.desktop.theme import Token

_WIDE, _HIGH = 40.0, 28.0


def electrical_eighth(axis: Axis, steps: int) -> int:
    """Return which eighth of an electrical turn an axis is in, so many steps from its start."""
    driver = axis.driver
    if isinstance(driver, CoilDriver):
        return steps % 8 if driver.sequence == "half" else 2 * steps % 8
    return steps * 2 // driver.microsteps % 8


def paint_phases(painter: QPainter, session: Session, axis: Axis, middle: QPointF, color: QColor) -> None:
    """Paint the ring of rows with the one in force."""
    row = electrical_eighth(axis, session.steps_moved)
    for k in range(8):
        angle = k * math.pi / 4
        painter.setBrush(color if k == row else Qt.BrushStyle.NoBrush)
        painter.drawEllipse(middle + QPointF(math.sin(angle), -math.cos(angle)) * 12, 2.6, 2.6)


def paint_travel(painter: QPainter, _session: Session, axis: Axis, middle: QPointF, _color: QColor) -> None:
    """Paint the stages side by side on their shaft; a bare shaft where there are none."""
    left = middle.x() - _WIDE / 2
    shown = axis.travel[:3]
    room = _WIDE / max(len(shown), 1)
    if not shown:
        painter.drawLine(QPointF(left, middle.y()), QPointF(left + _WIDE, middle.y()))
        painter.drawEllipse(middle, 6, 6)
    for k, stage in enumerate(shown):
        _paint_stage(painter, stage, QRectF(left + k * room + 1, middle.y() - 12, room - 2, 24))


def _paint_stage(painter: QPainter, stage: Stage, box: QRectF) -> None:
    y = box.center().y()
    if isinstance(stage, Screw):
        painter.drawRect(QRectF(box.left(), y - 4.5, box.width(), 9))
        turns = max(int(box.width() / 7), 1)
        slants = [box.left() + k * box.width() / turns for k in range(turns)]
        painter.drawLines([QLineF(x, y + 4.5, x + box.width() / turns, y - 4.5) for x in slants])
        return
    if isinstance(stage, Belt):
        radius = min(5.0, box.width() / 4)
        painter.drawRoundedRect(QRectF(box.left(), y - radius, box.width(), 2 * radius), radius, radius)
        painter.drawEllipse(QPointF(box.left() + radius, y), 1.2, 1.2)
        painter.drawEllipse(QPointF(box.right() - radius, y), 1.2, 1.2)
        return
    # Two wheels that touch, as large as their turns are slow.
    slowing = min(max(float(stage_ratio(stage)), 0.3), 3.3)
    whole = min(box.width(), 24.0) / 2
    first = whole / (1 + slowing)
    start = box.center().x() - whole
    painter.drawEllipse(QPointF(start + first, y), first, first)
    painter.drawEllipse(QPointF(start + whole + first, y), whole - first, whole - first)


def paint_ramp(painter: QPainter, _session: Session, axis: Axis, middle: QPointF, _color: QColor) -> None:
    """Paint the ramp of the axis: up, on and down in their own shares, from its own start speed."""
    limits = axis.limits
    start = min(limits.start_speed / limits.speed, 1.0)
    up, down = (1 - start) / limits.acceleration, (1 - start) / limits.deceleration
    whole = (up + down) * 1.5 or 1.0
    left, base = middle.x() - 15, middle.y() + 9
    corners = ((0.0, 0.0), (0.0, start), (up, 1.0), (whole - down, 1.0), (whole, start), (whole, 0.0))
    painter.drawPolyline(QPolygonF([QPointF(left + t / whole * 30, base - v * 18) for t, v in corners]))


def paint_run(painter: QPainter, session: Session, _axis: Axis, middle: QPointF, _color: QColor) -> None:
    """Paint the lamp of the board, and around it how much of the plan has been run."""
    theme, status = session.theme, session.status
    box = QRectF(middle.x() - 11, middle.y() - 11, 22, 22)
    painter.drawEllipse(box)
    token: Token = "accent" if session.running else "good" if status and status.agrees else "muted"
    if session.running:
        painter.setPen(theme.pen(theme.color("accent"), 3))
        painter.drawArc(box, 90 * 16, round(-360 * 16 * session.progress))
    painter.setBrush(theme.color(token))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.drawEllipse(middle, 4.5, 4.5)
