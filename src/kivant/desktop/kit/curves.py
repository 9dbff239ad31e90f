"""Painting speed curves in an axis's hue and pattern."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPolygonF

from kivant.core.motion.curves import Curve, envelope
from kivant.desktop.kit.theme import Theme

_LONGEST_PATTERN = 3000.0  # ups and downs, in pixels
_TINT = 0.13


def paint_curve(
    painter: QPainter, theme: Theme, index: int, curve: Curve, box: QRectF, per_second: float
) -> Iterator[None]:
    """Paint an axis's curve in its hue and pattern, in parts; `box` begins at time 0 and is as high as full speed.

    A pattern along many ups and downs would take longer than a frame and tell nothing: a long curve has none. Where
    there are more corners than pixels can tell apart, their envelope is painted.
    """
    if not len(curve[0]):
        return
    hue, columns = theme.axis(index), max(int(box.width()), 1)
    if len(curve[0]) * 3 > columns and per_second:
        painter.drawImage(box.topLeft(), _crowded(painter, theme, hue, curve, box, per_second))
        yield
        return
    times, shares = curve
    x, y = (box.left() + times * per_second).tolist(), (box.bottom() - shares * box.height()).tolist()
    long = float(np.abs(np.diff(shares)).sum()) * box.height() > _LONGEST_PATTERN
    points = list(map(QPointF, x, y))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.tint(hue, _TINT))
    painter.drawPolygon(QPolygonF([QPointF(x[0], box.bottom()), *points, QPointF(x[-1], box.bottom())]))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    yield
    painter.setPen(theme.pen(hue, 1.6, axis=None if long else index))
    painter.drawPolyline(QPolygonF(points))
    yield


def _crowded(painter: QPainter, theme: Theme, hue: QColor, curve: Curve, box: QRectF, per_second: float) -> QImage:
    """Return the envelope of a curve as a picture: the greatest speed in each column of pixels."""
    ratio = painter.device().devicePixelRatioF()
    width, height = max(int(box.width() * ratio), 1), max(round(box.height() * ratio), 1)
    _times, shares = envelope(curve, box.width() / per_second, width)
    tops = np.clip(((1.0 - shares) * (height - 1)).round(), 0, height - 1)
    before, rows = np.append(tops[:1], tops[:-1]), np.arange(height)[:, None]
    pixels = np.where(rows >= tops, _premultiplied(theme.tint(hue, _TINT)), np.uint32(0))
    pixels[(rows >= np.minimum(tops, before)) & (rows <= np.maximum(tops, before))] = _premultiplied(hue)
    found = QImage(pixels.tobytes(), width, height, 4 * width, QImage.Format.Format_ARGB32_Premultiplied).copy()
    found.setDevicePixelRatio(ratio)
    return found


def _premultiplied(color: QColor) -> np.uint32:
    alpha = color.alphaF()
    red, green, blue = (round(part * alpha) for part in (color.red(), color.green(), color.blue()))
    return np.uint32(color.alpha() << 24 | red << 16 | green << 8 | blue)
