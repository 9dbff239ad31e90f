"""The two ends of the Travel station's chain as drawings: the motor and the tool."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt

from kivant.core.machine import Axis
from kivant.desktop.kit.dial import paint_ends, paint_pointer
from kivant.desktop.stations.travel.brush import Brush


def paint_motor(brush: Brush, half: float, turns: float) -> None:
    """Draw the face of a motor: flange with its four holes, pilot and shaft."""
    painter, middle = brush.painter, brush.middle
    brush.ink(1.6)
    painter.drawRoundedRect(QRectF(middle.x() - half, middle.y() - half, 2 * half, 2 * half), half * 0.22, half * 0.22)
    for x in (-1, 1):
        for y in (-1, 1):
            painter.drawEllipse(middle + QPointF(x, y) * half * 0.76, half * 0.08, half * 0.08)
    painter.drawEllipse(middle, half * 0.62, half * 0.62)
    painter.drawEllipse(middle, half * 0.2, half * 0.2)
    brush.mark(middle, half * 0.42, turns)


def paint_tool(brush: Brush, axis: Axis, position: float, share: float, radius: float, wide: float) -> None:
    """Draw the tool: a disc turned as far as the axis, or a slide between its ends."""
    painter, middle, hue = brush.painter, brush.middle, brush.hue
    if axis.unit == "deg":
        painter.setPen(brush.theme.pen(hue, 2))
        painter.setBrush(brush.theme.color("sheet"))
        painter.drawEllipse(middle, radius, radius)
        painter.setBrush(brush.theme.tint(hue, 0.12))
        painter.drawEllipse(middle, radius, radius)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        paint_ends(painter, brush.theme, axis, middle, radius + 7)
        painter.setPen(brush.theme.pen(hue, 3))
        paint_pointer(painter, axis, middle, position, radius * 0.86)
        return
    left, width = middle.x() - wide, 2 * wide
    y = middle.y() + 26
    painter.setPen(brush.theme.pen(brush.theme.color("ink"), 1.4))
    painter.drawLine(QPointF(left, y), QPointF(left + width, y))
    for end, bound in ((left, axis.limits.min), (left + width, axis.limits.max)):
        if bound is not None:
            painter.drawLine(QPointF(end, y - 26), QPointF(end, y + 5))
    painter.setPen(brush.theme.pen(hue, 2))
    painter.setBrush(brush.theme.color("sheet"))
    slide = QRectF(left + (width - 40) * min(max(share, 0.0), 1.0), y - 31, 40, 30)
    painter.drawRoundedRect(slide, 3, 3)
    painter.setBrush(brush.theme.tint(hue, 0.12))
    painter.drawRoundedRect(slide, 3, 3)
