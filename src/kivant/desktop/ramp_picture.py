"""The drawn speed curve of a move: where its parts lie, and how they are painted. Nothing in it changes."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPolygonF

from kivant.app.probing import Probe
from kivant.desktop import figures
from kivant.desktop.theme import Theme, font

_LEFT, _RIGHT, _TOP, _BOTTOM, _GAP = 62.0, 16.0, 26.0, 24.0, 34.0
_STEMS_APART = 4.0  # pixels


@dataclass(frozen=True, slots=True)
class Frame:
    """The scale of the chart: kept while a handle is dragged, so that the hand and the curve stay together."""

    seconds: float
    top_speed: float


@dataclass(frozen=True)
class RampPicture:
    """Speed, position and step intervals of a probe in a room of `width` by `height` pixels, one above the other."""

    probe: Probe
    ghost: Probe | None
    frame: Frame
    width: int
    height: int
    theme: Theme
    hue: QColor
    held: str | None = None

    # Geometry

    @cached_property
    def _panes(self) -> tuple[QRectF, QRectF, QRectF]:
        room = self.height - _TOP - _BOTTOM - 2 * _GAP
        width = self.width - _LEFT - _RIGHT
        speed = QRectF(_LEFT, _TOP, width, room * 0.54)
        position = QRectF(_LEFT, speed.bottom() + _GAP, width, room * 0.21)
        return speed, position, QRectF(_LEFT, position.bottom() + _GAP, width, room * 0.25)

    @property
    def _per_second(self) -> float:
        return (self.width - _LEFT - _RIGHT) / self.frame.seconds

    def _point(self, seconds: float, speed: float) -> QPointF:
        pane = self._panes[0]
        return QPointF(_LEFT + seconds * self._per_second, pane.bottom() - speed / self.frame.top_speed * pane.height())

    def paint_speed(self, painter: QPainter, speed: float) -> None:
        """Paint how fast the axis goes at the playhead, as a level across the curve."""
        pane, accent = self._panes[0], self.theme.color("accent")
        painter.setPen(accent)
        painter.setFont(font("small"))
        text = f"at the playhead {figures.short(speed)} {self.probe.axis.axis.unit}/s"
        painter.drawText(QRectF(pane.left() + 150, 0, pane.width() - 150, 20), Qt.AlignmentFlag.AlignRight, text)
        y = self._point(0.0, speed).y()
        if y < pane.top():
            return
        painter.setPen(self.theme.pen(accent, 1.2, axis=2))
        painter.drawLine(QPointF(pane.left(), y), QPointF(pane.right(), y))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(accent)
        painter.drawPolygon(QPolygonF([QPointF(pane.right() + x, y + dy) for x, dy in ((0, 0), (9, -5), (9, 5))]))

    def seconds_at(self, x: float) -> float:
        """Return the time under a pixel column, s from the begin of the move."""
        return (x - _LEFT) / self._per_second

    def speed_at(self, y: float) -> float:
        """Return the speed at a pixel row of the upper pane, axis units/s."""
        pane = self._panes[0]
        return (pane.bottom() - y) / pane.height() * self.frame.top_speed

    @cached_property
    def handles(self) -> dict[str, QPointF]:
        """Where each handle is, by the key of its limit."""
        corners = _corners(self.probe)
        phases = {name: k for k, (name, _s, _d) in enumerate(self.probe.phases())}
        found = {"start_speed": self._point(0.0, corners[0][1])}
        top = max(corners, key=lambda corner: corner[1])
        if "on" in phases:
            a, b = corners[2 * phases["on"]], corners[2 * phases["on"] + 1]
            top = ((a[0] + b[0]) / 2, a[1])
        found["speed"] = self._point(*top)
        for key, name in (("acceleration", "up"), ("deceleration", "down")):
            if name in phases:
                a, b = corners[2 * phases[name]], corners[2 * phases[name] + 1]
                found[key] = self._point((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)
        return found

    # Painting

    def paint(self, painter: QPainter) -> Iterator[None]:
        """Paint it all, in parts."""
        theme = self.theme
        speed, position, intervals = self._panes
        unit = self.probe.axis.axis.unit
        self._paint_scale(painter, speed, self.frame.top_speed, f"speed, {unit}/s")
        self._paint_time(painter, intervals.bottom())
        # While a handle is held the scale stands still, and the curve may reach beyond it.
        painter.setClipRect(QRectF(0, 0, self.width - _RIGHT + 8, self.height))
        yield
        if self.ghost is not None and self.ghost is not self.probe:
            painter.setPen(theme.pen(theme.color("muted"), 1.2, axis=1))
            painter.drawPolyline(self._outline(self.ghost))
        outline = self._outline(self.probe)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.tint(self.hue, 0.13))
        painter.drawPolygon(outline)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(theme.pen(self.hue, 2.2))
        painter.drawPolyline(outline)
        yield
        self._paint_position(painter, position)
        yield
        self._paint_intervals(painter, intervals)
        for key, place in self.handles.items():
            painter.setPen(theme.pen(self.hue, 2))
            painter.setBrush(theme.color("accent" if key == self.held else "sheet"))
            painter.drawEllipse(place, 6, 6)

    def _outline(self, probe: Probe) -> QPolygonF:
        corners = _corners(probe)
        points = [(corners[0][0], 0.0), *corners, (corners[-1][0], 0.0)]
        return QPolygonF([self._point(t, v) for t, v in points])

    def _paint_scale(self, painter: QPainter, pane: QRectF, top: float, title: str, marks: int = 5) -> None:
        theme = self.theme
        painter.setFont(font("small"))
        painter.setPen(theme.color("muted"))
        painter.drawText(QRectF(_LEFT, pane.top() - 24, 300, 18), Qt.AlignmentFlag.AlignVCenter, title)
        step = figures.nice_span(top / marks * 0.98)
        for k in range(int(top / step + 1e-9) + 1):
            y = pane.bottom() - k * step / top * pane.height()
            painter.setPen(theme.pen(theme.tint(theme.color("edge"), 0.7), 1))
            painter.drawLine(QPointF(pane.left(), y), QPointF(pane.right(), y))
            painter.setPen(theme.color("muted"))
            right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            painter.drawText(QRectF(0, y - 9, _LEFT - 11, 18), right, figures.short(k * step))

    def _paint_time(self, painter: QPainter, bottom: float) -> None:
        step = figures.nice_span(self.frame.seconds / max((self.width - _LEFT) / 110, 1.0))
        painter.setPen(self.theme.color("muted"))
        for k in range(int(self.frame.seconds / step + 1e-9) + 1):
            x = min(_LEFT + k * step * self._per_second, self.width - 32.0)
            text = f"{figures.short(k * step)} s"
            painter.drawText(QRectF(x - 40, bottom + 4, 80, 18), Qt.AlignmentFlag.AlignHCenter, text)

    def _paint_position(self, painter: QPainter, pane: QRectF) -> None:
        probe = self.probe
        reach = max(abs(float(probe.distance)), 1e-12)
        self._paint_scale(painter, pane, reach * 1.001, f"position, {probe.axis.axis.unit}", marks=2)
        times = np.linspace(0.0, probe.plan.duration - probe.begin_s, 120)
        way = np.abs(probe.axis.ideal(times + probe.begin_s)) / float(probe.axis.steps_per_unit)
        x, y = _LEFT + times * self._per_second, pane.bottom() - way / reach * pane.height()
        painter.setPen(self.theme.pen(self.hue, 1.6))
        painter.drawPolyline(QPolygonF([QPointF(a, b) for a, b in zip(x.tolist(), y.tolist(), strict=True)]))

    def _paint_intervals(self, painter: QPainter, pane: QRectF) -> None:
        """A stem for each step, as long as the time to the next, under a line along their ends."""
        gaps = self.probe.intervals_s()
        if not len(gaps):
            self._paint_scale(painter, pane, 1.0, "between steps: fewer than two steps", marks=1)
            return
        top = min(float(gaps.max()), 12 * float(gaps.min()))
        unit, factor = ("ms", 1e3) if top >= 1e-3 else ("µs", 1e6)
        cut = "; the longest reach beyond" if top < float(gaps.max()) else ""
        self._paint_scale(painter, pane, top * factor * 1.05, f"between steps, {unit}{cut}", marks=2)
        at, heights = self._stems(gaps, int(pane.width() / 2))
        x = _LEFT + at * self._per_second
        y = pane.bottom() - np.minimum(heights / (top * 1.05), 1.0) * pane.height()
        bottom, ends = pane.bottom(), list(zip(x.tolist(), y.tolist(), strict=True))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.theme.tint(self.hue, 0.13))
        corners = [(ends[0][0], bottom), *ends, (ends[-1][0], bottom)]
        painter.drawPolygon(QPolygonF([QPointF(a, b) for a, b in corners]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(self.theme.pen(self.hue, 1.4))
        painter.drawPolyline(QPolygonF([QPointF(a, b) for a, b in ends]))
        # Stems only where they can be told apart: denser ones would show a pattern of the screen's, not of the steps.
        apart = np.diff(x, append=np.inf) >= _STEMS_APART
        painter.drawLines([QLineF(a, bottom, a, b) for (a, b), shown in zip(ends, apart, strict=True) if shown])

    def _stems(self, gaps: NDArray[np.float64], columns: int) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Return when each stem stands (s from the begin) and how long it is (s), the longest in each column."""
        instants = self.probe.axis.instants[1:] - self.probe.begin_s
        inside = int(np.searchsorted(instants, self.frame.seconds)) or 1
        instants, gaps = instants[:inside], gaps[:inside]
        if len(gaps) <= columns:
            return instants, gaps
        bins = np.minimum((instants / self.frame.seconds * columns).astype(int), columns - 1)
        longest = np.zeros(columns)
        np.maximum.at(longest, bins, gaps)
        shown = np.flatnonzero(longest)
        return (shown + 0.5) * self.frame.seconds / columns, longest[shown]


def _corners(probe: Probe) -> list[tuple[float, float]]:
    """Return the corners of the speed curve, s from its begin and axis units/s."""
    times, speeds = probe.axis.train.corners()
    ratio = float(probe.axis.steps_per_unit)
    return [(float(t) - probe.begin_s, abs(float(v)) / ratio) for t, v in zip(times, speeds, strict=True)]
