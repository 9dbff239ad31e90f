"""The field's path over one cycle, as a small figure: closed where the motor turns, struck through where it cannot."""

from __future__ import annotations

import math
from collections.abc import Sequence

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPolygonF

from kivant.core.drive.phases import Row
from kivant.core.drive.wiring import field_steps
from kivant.desktop.kit.theme import Theme


def field_point(middle: QPointF, radius: float, angle_deg: float) -> QPointF:
    """Return where an electrical angle is on a circle: 0 at the top, positive clockwise."""
    angle = math.radians(angle_deg - 90)
    return middle + QPointF(math.cos(angle), math.sin(angle)) * radius


def paint_field_path(
    painter: QPainter, theme: Theme, rows: Sequence[Row], middle: QPointF, radius: float, hue: QColor
) -> None:
    """Paint the fields of a cycle as points on a circle, joined in their order; half turns stand out.

    A dot in the middle stands for each row without a field.
    """
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(theme.pen(theme.color("edge"), 1))
    painter.drawEllipse(middle, radius, radius)
    live = [row for row in rows if row.torque]
    points = [field_point(middle, radius, row.field_deg) for row in live]
    for k, step in enumerate(field_steps(tuple(rows))):
        begin, end = points[k], points[(k + 1) % len(points)]
        jump = step == 180.0
        painter.setPen(theme.pen(theme.color("bad") if jump else hue, 2.0 if jump else 1.5))
        painter.drawLine(begin, end)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(hue)
    for point in points:
        painter.drawEllipse(point, 2.0, 2.0)
    if len(live) < len(rows):
        painter.setBrush(theme.color("bad"))
        painter.drawEllipse(middle, 2.5, 2.5)


def paint_turn(painter: QPainter, theme: Theme, middle: QPointF, radius: float, turns: int, hue: QColor) -> None:
    """Paint which way a field turns: an arrow around the middle, or a stroke to and fro where it does not."""
    painter.setPen(theme.pen(hue, 1.6))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if not turns:
        for way in (-1, 1):
            tip = middle + QPointF(way * radius, 0)
            painter.drawLine(middle, tip)
            painter.drawLine(tip, tip + QPointF(-way * 3, -3))
            painter.drawLine(tip, tip + QPointF(-way * 3, 3))
        return
    way = 1 if turns > 0 else -1
    arc = QPolygonF([field_point(middle, radius, way * a) for a in range(-120, 121, 12)])
    painter.drawPolyline(arc)
    tip = arc.last()
    along = field_point(QPointF(0, 0), 1, way * 120 + way * 90)
    side = QPointF(-along.y(), along.x())
    for sign in (1, -1):
        painter.drawLine(tip, tip - along * 4 + side * 3.2 * sign)
