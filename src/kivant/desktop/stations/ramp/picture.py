"""The drawn speed curve of a move: where its parts lie, and how they are painted. Nothing in it changes."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter

from kivant.core.motion.curves import longest_intervals
from kivant.core.motion.trial import TrialMove
from kivant.desktop.kit import figures
from kivant.desktop.kit.chart import Pane, Scale, paint_handles, paint_time_axis
from kivant.desktop.kit.theme import Theme, font

_LEFT, _RIGHT, _TOP, _BOTTOM, _GAP = 62.0, 16.0, 26.0, 24.0, 34.0
_STEMS_APART = 4.0  # pixels


@dataclass(frozen=True, slots=True)
class Frame:
    """The scale of the chart: kept while a handle is dragged, so that the hand and the curve stay together."""

    seconds: float
    top_speed: float


@dataclass(frozen=True)
class RampPicture:
    """Speed, position and step intervals of a move in a room of `width` by `height` pixels, one above the other."""

    move: TrialMove
    ghost: TrialMove | None
    frame: Frame
    width: int
    height: int
    theme: Theme
    hue: QColor

    # Geometry

    @cached_property
    def _time(self) -> Scale:
        return Scale(0.0, self.frame.seconds, _LEFT, self.width - _RIGHT)

    @cached_property
    def _boxes(self) -> tuple[QRectF, QRectF, QRectF]:
        room = self.height - _TOP - _BOTTOM - 2 * _GAP
        width = self.width - _LEFT - _RIGHT
        speed = QRectF(_LEFT, _TOP, width, room * 0.54)
        position = QRectF(_LEFT, speed.bottom() + _GAP, width, room * 0.21)
        return speed, position, QRectF(_LEFT, position.bottom() + _GAP, width, room * 0.25)

    @cached_property
    def speed(self) -> Pane:
        """The upper pane: axis units/s over s from the begin of the move."""
        return Pane(self._boxes[0], self._time, self.frame.top_speed)

    @cached_property
    def handles(self) -> dict[str, QPointF]:
        """Where each handle is, by the key of its limit, in the order of the keys."""
        corners = self.move.corners
        phases = {phase.name: k for k, phase in enumerate(self.move.phases)}

        def middle(phase: int) -> tuple[float, float]:
            (a, v), (b, w) = corners[2 * phase], corners[2 * phase + 1]
            return (a + b) / 2, (v + w) / 2

        found = {"start_speed": self.speed.point(0.0, corners[0][1])}
        if "acceleration" in phases:
            found["acceleration"] = self.speed.point(*middle(phases["acceleration"]))
        top = max(corners, key=lambda corner: corner[1])
        found["speed"] = self.speed.point(*(middle(phases["cruise"]) if "cruise" in phases else top))
        if "deceleration" in phases:
            found["deceleration"] = self.speed.point(*middle(phases["deceleration"]))
        return found

    # Painting

    def paint(self, painter: QPainter) -> Iterator[None]:
        """Paint all that stays, in parts."""
        theme, unit = self.theme, self.move.axis.axis.unit
        self.speed.paint_scale(painter, theme, f"speed, {unit}/s", 5)
        paint_time_axis(painter, theme, self._time, self._boxes[2].bottom() + 4, apart=110)
        # While a handle is held the scale stands still, and the curve may reach beyond it.
        painter.setClipRect(QRectF(0, 0, self.width - _RIGHT + 8, self.height))
        yield
        if self.ghost is not None and self.ghost is not self.move:
            painter.setPen(theme.pen(theme.color("muted"), 1.2, axis=1))
            painter.drawPolyline(self.speed.line(*_outline(self.ghost)))
        self.speed.paint_area(painter, theme, self.hue, *_outline(self.move), 2.2)
        yield
        self._paint_position(painter)
        yield
        self._paint_intervals(painter)

    def paint_handles(self, painter: QPainter, held: str | None, reached: str | None) -> None:
        """Paint the handles."""
        paint_handles(painter, self.theme, self.hue, self.handles, held, reached)

    def paint_speed(self, painter: QPainter, speed: float) -> None:
        """Paint how fast the axis goes at the playhead, as a level across the curve."""
        box = self._boxes[0]
        painter.setPen(self.theme.color("accent"))
        painter.setFont(font("small"))
        text = f"at the playhead {figures.short(speed)} {self.move.axis.axis.unit}/s"
        painter.drawText(QRectF(box.left() + 150, 0, box.width() - 150, 20), Qt.AlignmentFlag.AlignRight, text)
        self.speed.paint_level(painter, self.theme, speed)

    def _paint_position(self, painter: QPainter) -> None:
        move = self.move
        pane = Pane(self._boxes[1], self._time, max(abs(float(move.distance)), 1e-12) * 1.001)
        pane.paint_scale(painter, self.theme, f"position, {move.axis.axis.unit}", 2)
        times = np.linspace(0.0, move.seconds, 120)
        way = np.abs(move.axis.ideal(times + move.begin_s)) / float(move.axis.steps_per_unit)
        painter.setPen(self.theme.pen(self.hue, 1.6))
        painter.drawPolyline(pane.line(times, way))

    def _paint_intervals(self, painter: QPainter) -> None:
        """A stem for each step, as long as the time to the next, under a line along their ends."""
        gaps = self.move.intervals_s
        if not len(gaps):
            pane = Pane(self._boxes[2], self._time, 1.0)
            pane.paint_scale(painter, self.theme, "between steps: fewer than two steps", 1)
            return
        top = min(float(gaps.max()), 12 * float(gaps.min()))
        unit, factor = ("ms", 1e3) if top >= 1e-3 else ("µs", 1e6)
        cut = "; the longest are cut off" if top < float(gaps.max()) else ""
        pane = Pane(self._boxes[2], self._time, top * factor * 1.05)
        pane.paint_scale(painter, self.theme, f"between steps, {unit}{cut}", 2)
        at, heights = self._stems(gaps)
        ends = np.minimum(heights * factor, pane.top)
        pane.paint_area(painter, self.theme, self.hue, at, ends, 1.4)
        # Stems only where they can be told apart: denser ones would show a pattern of the screen's, not of the steps.
        x = self._time.begin + at * self._time.per_unit
        apart = np.diff(x, append=np.inf) >= _STEMS_APART
        bottom = pane.box.bottom()
        stems = [
            QLineF(a, bottom, a, pane.y.at(b)) for a, b in zip(x[apart].tolist(), ends[apart].tolist(), strict=True)
        ]
        painter.drawLines(stems)

    def _stems(self, gaps: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Return when each stem stands (s from the begin) and how long it is (s), as many as there is room for."""
        instants = self.move.axis.instants[1:] - self.move.begin_s
        return longest_intervals(instants, gaps, self.frame.seconds, int(self._boxes[2].width() / 2))


def _outline(move: TrialMove) -> tuple[list[float], list[float]]:
    """Return the corners of the speed curve, down to 0 at both ends: s from its begin, axis units/s."""
    corners = move.corners
    points = [(corners[0][0], 0.0), *corners, (corners[-1][0], 0.0)]
    return [t for t, _v in points], [v for _t, v in points]
