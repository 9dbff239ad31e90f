"""Charts: scales with round ticks, panes with hairline grids and curves, for every drawing with axes."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from msgspec import Struct
from numpy.typing import ArrayLike
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPolygonF

from kivant.desktop.kit import figures
from kivant.desktop.kit.theme import Theme, font

_LABEL = 18.0  # height of a label, pixels


class Scale(Struct, frozen=True):
    """Values from `low` to `high` along pixels from `begin` to `end`."""

    low: float
    high: float
    begin: float
    end: float

    @property
    def per_unit(self) -> float:
        """Pixels of one unit, with sign; 0 where nothing is spanned."""
        return (self.end - self.begin) / (self.high - self.low) if self.high > self.low else 0.0

    def at(self, value: float) -> float:
        """Return where a value is."""
        return self.begin + (value - self.low) * self.per_unit

    def value(self, pixel: float) -> float:
        """Return what a pixel stands for."""
        return self.low + (pixel - self.begin) / self.per_unit if self.per_unit else self.low

    def step(self, apart: float) -> float:
        """Return the round step from tick to tick that are at least so many pixels apart."""
        return figures.nice_span(apart / abs(self.per_unit)) if self.per_unit else 0.0

    def ticks(self, step: float) -> range:
        """Return the whole numbers that, times `step`, are the ticks within the scale."""
        if not step:
            return range(0)
        return range(int(np.ceil(self.low / step - 1e-9)), int(np.floor(self.high / step + 1e-9)) + 1)


def paint_time_axis(
    painter: QPainter,
    theme: Theme,
    scale: Scale,
    top: float,
    *,
    apart: float,
    grid: tuple[float, float] | None = None,
    words: Callable[[float], str] = figures.short,
) -> None:
    """Write times in s along a horizontal scale, below `top`, with hairlines over the pixels of `grid`."""
    step = scale.step(apart)
    painter.setFont(font("small"))
    for k in scale.ticks(step):
        x = scale.at(k * step)
        if grid is not None:
            painter.setPen(theme.pen(theme.tint(theme.color("edge"), 0.55), 1))
            painter.drawLine(QPointF(x, grid[0]), QPointF(x, grid[1]))
        painter.setPen(theme.color("muted"))
        text = f"{words(k * step)} s"
        left = min(x - 40, scale.end - painter.fontMetrics().horizontalAdvance(text) / 2 - 40 + 16)
        painter.drawText(QRectF(left, top, 80, _LABEL), Qt.AlignmentFlag.AlignHCenter, text)


class Pane(Struct, frozen=True):
    """One chart: a box of pixels, a horizontal scale, and values from 0 up to `top`."""

    box: QRectF
    x: Scale
    top: float

    @property
    def y(self) -> Scale:
        """The vertical scale: larger values are higher up."""
        return Scale(0.0, self.top, self.box.bottom(), self.box.top())

    def point(self, x: float, y: float) -> QPointF:
        """Return where a point is."""
        return QPointF(self.x.at(x), self.y.at(y))

    def line(self, xs: ArrayLike, ys: ArrayLike) -> QPolygonF:
        """Return the line through points."""
        across, up = self.x, self.y
        x = across.begin + (np.asarray(xs, np.float64) - across.low) * across.per_unit
        y = up.begin + (np.asarray(ys, np.float64) - up.low) * up.per_unit
        return QPolygonF(list(map(QPointF, x.tolist(), y.tolist())))

    def paint_scale(self, painter: QPainter, theme: Theme, title: str, marks: int) -> None:
        """Paint a hairline at each round value, the value at its left, and the title above."""
        scale = self.y
        step = figures.nice_span(self.top / marks * 0.98)
        painter.setFont(font("small"))
        painter.setPen(theme.color("muted"))
        title_box = QRectF(self.box.left(), self.box.top() - 24, self.box.width(), _LABEL)
        painter.drawText(title_box, Qt.AlignmentFlag.AlignVCenter, title)
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        for k in scale.ticks(step):
            y = scale.at(k * step)
            painter.setPen(theme.pen(theme.tint(theme.color("edge"), 0.7), 1))
            painter.drawLine(QPointF(self.box.left(), y), QPointF(self.box.right(), y))
            painter.setPen(theme.color("muted"))
            painter.drawText(QRectF(0, y - 9, self.box.left() - 11, _LABEL), right, figures.short(k * step))

    def paint_area(
        self, painter: QPainter, theme: Theme, hue: QColor, xs: ArrayLike, ys: ArrayLike, width: float
    ) -> None:
        """Paint a curve in a hue, and the area below it thinly."""
        outline = self.line(xs, ys)
        if outline.isEmpty():
            return
        base = [QPointF(outline.last().x(), self.box.bottom()), QPointF(outline.first().x(), self.box.bottom())]
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.tint(hue, 0.13))
        painter.drawPolygon(QPolygonF([*outline.toList(), *base]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(theme.pen(hue, width))
        painter.drawPolyline(outline)

    def paint_level(self, painter: QPainter, theme: Theme, value: float) -> None:
        """Paint a value of this instant as a dashed level with a pointer at the right; above the pane, nothing."""
        y, accent = self.y.at(value), theme.color("accent")
        if y < self.box.top():
            return
        painter.setPen(theme.pen(accent, 1.2, axis=2))
        painter.drawLine(QPointF(self.box.left(), y), QPointF(self.box.right(), y))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(accent)
        corners = ((0, 0), (9, -5), (9, 5))
        painter.drawPolygon(QPolygonF([QPointF(self.box.right() + dx, y + dy) for dx, dy in corners]))


def paint_handles(
    painter: QPainter, theme: Theme, hue: QColor, handles: dict[str, QPointF], held: str | None, reached: str | None
) -> None:
    """Paint what can be dragged: a ring each, filled while it is held, with a second ring where the keys go."""
    for key, place in handles.items():
        painter.setPen(theme.pen(hue, 2))
        painter.setBrush(theme.color("accent" if key == held else "sheet"))
        painter.drawEllipse(place, 6, 6)
        if key == reached:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(theme.pen(theme.color("accent"), 2))
            painter.drawEllipse(place, 10, 10)


def paint_marks(
    painter: QPainter,
    scale: Scale,
    y: float,
    step: float,
    every: int,
    lengths: tuple[float, float],
    label: Callable[[int], str],
    color: QColor,
) -> None:
    """Paint marks along a horizontal scale at multiples of `step`, longer and with a label at every `every`-th.

    `lengths` are those of short and long marks in pixels, downwards; negative ones stand above the line.
    """
    for k in scale.ticks(step):
        x, labelled = scale.at(k * step), k % every == 0
        pen = painter.pen()
        pen.setColor(color)
        pen.setWidthF(1.4 if labelled else 1.0)
        painter.setPen(pen)
        length = lengths[labelled]
        painter.drawLine(QPointF(x, y), QPointF(x, y + length))
        if labelled and scale.begin + 20 < x < scale.end - 20:
            top = y + length + 2 if length > 0 else y + length - 20
            painter.drawText(QRectF(x - 60, top, 120, _LABEL), Qt.AlignmentFlag.AlignHCenter, label(k))
