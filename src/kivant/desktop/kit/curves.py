"""Painting speed curves in an axis's hue and pattern."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPolygonF

from kivant.core.motion.curves import Curve, envelope
from kivant.desktop.kit.theme import Theme

_LONGEST_PATTERN = 3000.0  # ups and downs, in pixels


def paint_curve(
    painter: QPainter, theme: Theme, index: int, curve: Curve, box: QRectF, per_second: float
) -> Iterator[None]:
    """Paint an axis's curve in its hue and pattern, in parts; `box` begins at time 0 and is as high as full speed.

    A pattern along many ups and downs would take longer than a frame and tell nothing: a long curve has none. Where
    there are more corners than pixels can tell apart, their envelope is painted.
    """
    if not len(curve[0]):
        return
    columns = max(int(box.width()), 1)
    crowded = len(curve[0]) * 3 > columns
    times, shares = envelope(curve, box.width() / per_second, columns) if crowded and per_second else curve
    x, y = (box.left() + times * per_second).tolist(), (box.bottom() - shares * box.height()).tolist()
    long = float(np.abs(np.diff(shares)).sum()) * box.height() > _LONGEST_PATTERN
    hue, base = theme.axis(index), box.bottom()
    points = list(map(QPointF, x, y))
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, not crowded)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.tint(hue, 0.13))
    painter.drawPolygon(QPolygonF([QPointF(x[0], base), *points, QPointF(x[-1], base)]))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    yield
    painter.setPen(theme.pen(hue, 1 if crowded else 1.6, axis=None if crowded or long else index))
    painter.drawPolyline(QPolygonF(points))
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    yield
