"""Speed curves: every axis's speed over time, thinned to what a width can show, and painted."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPolygonF

from kivant.core.plan import AxisPlan, Plan
from kivant.desktop.theme import Theme

Curve = tuple[NDArray[np.float64], NDArray[np.float64]]
"""Times in s, ascending, and speeds as shares of the axis's own limit, without sign."""

_COLUMNS = 2000  # as many as a picture is wide, at the most
_LONGEST_PATTERN = 3000.0  # ups and downs, in pixels


@dataclass(frozen=True, slots=True)
class Traces:
    """What pictures need of a plan: each axis's curve, and begin and end of each block in s, shape (blocks, 2)."""

    curves: list[Curve]
    blocks: NDArray[np.float64]


NO_TRACES = Traces([], np.empty((0, 2)))


def traces(plan: Plan) -> Traces:
    """Return the traces of a plan; a curve of many corners becomes the greatest speed in each of many columns."""
    blocks = np.array([(block.begin_s, block.end_s) for block in plan.blocks]).reshape(-1, 2)
    return Traces([_speed_curve(axis, plan.duration) for axis in plan.axes], blocks)


def _speed_curve(axis: AxisPlan, duration_s: float) -> Curve:
    times, speeds = axis.train.corners()
    limit = axis.axis.limits.speed * float(axis.steps_per_unit)
    curve = _with_rests(times.reshape(-1, 2), np.abs(speeds).reshape(-1, 2) / limit)
    return envelope(curve, duration_s, _COLUMNS) if len(curve[0]) > 2 * _COLUMNS else curve


def _with_rests(times: NDArray[np.float64], shares: NDArray[np.float64]) -> Curve:
    """Return the corners of all pieces in a row, down to 0 wherever one piece does not follow on another."""
    begins = np.ones(len(times), bool)
    begins[1:] = (times[1:, 0] > times[:-1, 1] + 1e-9) | (np.abs(shares[1:, 0] - shares[:-1, 1]) > 1e-6)
    ends = np.append(begins[1:], True)[: len(times)]
    nothing = np.zeros(len(times))
    all_times = np.stack((times[:, 0], times[:, 0], times[:, 1], times[:, 1]), axis=1)
    all_shares = np.stack((nothing, shares[:, 0], shares[:, 1], nothing), axis=1)
    kept = np.stack((begins, ~nothing.astype(bool), ~nothing.astype(bool), ends), axis=1)
    return all_times[kept], all_shares[kept]


def envelope(curve: Curve, duration_s: float, columns: int) -> Curve:
    """Return the greatest share in each of `columns` equal spans of the duration, at their middles."""
    times, shares = curve
    edges = np.linspace(0.0, duration_s, columns + 1)
    at_edges = np.interp(edges, times, shares)
    tops = np.maximum(at_edges[:-1], at_edges[1:])
    np.maximum.at(tops, np.clip(np.searchsorted(edges, times, "right") - 1, 0, columns - 1), shares)
    return (edges[:-1] + edges[1:]) / 2, tops


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
    outline = QPolygonF([QPointF(a, b) for a, b in zip(x, y, strict=True)])
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, not crowded)
    if crowded:
        painter.setPen(theme.pen(theme.tint(hue, 0.13), 1))
        painter.drawLines([QLineF(a, b, a, base) for a, b in zip(x, y, strict=True)])
    else:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.tint(hue, 0.13))
        painter.drawPolygon(QPolygonF([QPointF(x[0], base), *outline.toList(), QPointF(x[-1], base)]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
    yield
    painter.setPen(theme.pen(hue, 1 if crowded else 1.6, axis=None if crowded or long else index))
    painter.drawPolyline(outline)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    yield
