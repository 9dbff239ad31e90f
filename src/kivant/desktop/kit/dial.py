"""Dials and rulers: where an axis stands between its ends, as a pointer on a circle or along a line."""

from __future__ import annotations

import math
from decimal import Decimal

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPolygonF

from kivant.core.machine import Axis
from kivant.desktop.kit.figures import nice_span
from kivant.desktop.kit.theme import Theme


def sense_of(axis: Axis) -> int:
    """Return +1 where larger positions are clockwise, else -1."""
    return 1 if axis.positive == "cw" else -1


def on_dial(axis: Axis, middle: QPointF, degrees: float, distance: float) -> QPointF:
    """Return the point of a dial at a position, so far from its middle; 0 is at the top."""
    angle = math.radians(sense_of(axis) * math.fmod(degrees, 360.0) - 90)
    return middle + QPointF(math.cos(angle), math.sin(angle)) * distance


def paint_ends(painter: QPainter, theme: Theme, axis: Axis, middle: QPointF, radius: float) -> None:
    """Paint the arc between an axis's ends, where it has ends less than a turn apart."""
    low, high, sense = axis.limits.min, axis.limits.max, sense_of(axis)
    if low is not None and high is not None and high - low < 360:
        painter.setPen(theme.pen(theme.color("muted"), 2))
        box = QRectF(middle.x() - radius, middle.y() - radius, 2 * radius, 2 * radius)
        painter.drawArc(box, round((90 - sense * float(low)) * 16), round(-sense * float(high - low) * 16))


def paint_pointer(painter: QPainter, axis: Axis, middle: QPointF, position: float, length: float) -> None:
    """Paint the pointer of a dial in the painter's own pen."""
    painter.drawLine(middle, on_dial(axis, middle, position, length))


def paint_way(
    painter: QPainter, theme: Theme, axis: Axis, hue: QColor, dial: tuple[QPointF, float], ways: tuple[float, ...]
) -> None:
    """Paint the way of a turning axis around its dial: from where it began to its target, and how far it is gone.

    Parameters
    ----------
    dial : tuple of QPointF and float
        Middle and radius of the arc.
    ways : tuple of float
        Where the way begins, where the axis is, and its target, in deg; more than a turn is a whole circle.
    """
    (middle, radius), (begin, now, end), sense = dial, ways, sense_of(axis)
    box = QRectF(middle.x() - radius, middle.y() - radius, 2 * radius, 2 * radius)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for start, stop, width, color in ((begin, now, 1.2, theme.color("edge")), (now, end, 2.2, hue)):
        span = min(max(stop - start, -360.0), 360.0)
        painter.setPen(theme.pen(color, width))
        painter.drawArc(box, round((90 - sense * math.fmod(start, 360.0)) * 16), round(-sense * span * 16))
    if now == end:
        return
    tip, forward = on_dial(axis, middle, end, radius), sense * (1 if end > begin else -1)
    angle = math.radians(sense * math.fmod(end, 360.0) - 90) + forward * math.pi / 2  # along the arc
    along, across = QPointF(math.cos(angle), math.sin(angle)), QPointF(-math.sin(angle), math.cos(angle))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(hue)
    painter.drawPolygon(QPolygonF([tip, tip - along * 7 + across * 3.5, tip - along * 7 - across * 3.5]))


def ruler_span(low: Decimal | None, high: Decimal | None, position: float) -> tuple[float, float]:
    """Return where a ruler begins and how much it spans: between the ends, else some way around the position."""
    if low is not None and high is not None and high > low:
        return float(low), float(high - low)
    span = nice_span(max(abs(position) * 0.4, 20.0))
    return math.floor(position / span) * span, span


def ruler_share(axis: Axis, position: float) -> float:
    """Return where on its ruler an axis stands, 0 at its beginning and 1 at its end; beyond them less or more."""
    begin, span = ruler_span(axis.limits.min, axis.limits.max, position)
    return (position - begin) / span
