"""Glyphs of the kinds of drives, 18 pixels wide: the turns of a coil, a train of pulses, or two of them."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter, QPolygonF

Glyph = Callable[[QPainter, QPointF], None]
"""Paints a glyph to the right of a point, around its height, in the painter's own pen."""

WIDTH = 18.0


def _turns(painter: QPainter, left: QPointF) -> None:
    for k in range(3):
        painter.drawArc(QRectF(left.x() + 6 * k, left.y() - 4, 6, 8), 0, 180 * 16)


def _train(painter: QPainter, left: QPointF, base: float, up: float) -> None:
    corners = ((0, 0), (3, 0), (3, -up), (7, -up), (7, 0), (11, 0), (11, -up), (15, -up), (15, 0), (18, 0))
    painter.drawPolyline(QPolygonF([left + QPointF(x, y + base + 2) for x, y in corners]))


def _one_train(painter: QPainter, left: QPointF) -> None:
    _train(painter, left, -1.0, 4.0)


def _two_trains(painter: QPainter, left: QPointF) -> None:
    _train(painter, left, -1.0, 4.0)
    _train(painter, left, 5.0, -4.0)


GLYPHS: dict[str, Glyph] = {"coils": _turns, "step_direction": _one_train, "pulse_pair": _two_trains}
"""The glyph of each kind of driver."""
