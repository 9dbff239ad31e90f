"""The drawn speed curve of a move: where its parts lie, and how they are painted. Nothing in it changes."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cached_property

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter

from kivant.core.machine.parts import shape_of
from kivant.core.motion.curves import longest_intervals
from kivant.core.motion.trial import Phase, TrialMove
from kivant.core.motor.demand import demand_of
from kivant.core.motor.spare import spare_of
from kivant.desktop.kit import figures
from kivant.desktop.kit.chart import Pane, Scale, paint_handles, paint_time_axis
from kivant.desktop.kit.theme import Theme, font
from kivant.desktop.stations.ramp.torque_pane import TorquePane

_LEFT, _RIGHT, _TOP, _BOTTOM, _GAP = 62.0, 16.0, 24.0, 22.0, 29.0
_SHARES = (0.45, 0.22, 0.13, 0.20)  # of the room, for speed, torque, position and intervals
_STEADY = ("trapezoid", "s_curve")  # shapes whose acceleration is a limit that is kept
_STEMS_APART = 4.0  # pixels


class Frame(Struct, frozen=True):
    """The scale of the chart: kept while a handle is dragged, so that the hand and the curve stay together."""

    seconds: float
    top_speed: float


class RampPicture(Struct, frozen=True, dict=True):
    """Speed, torque, position and step intervals of a move in a room of pixels, one above the other."""

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
    def _boxes(self) -> tuple[QRectF, ...]:
        room = self.height - _TOP - _BOTTOM - 3 * _GAP
        found, top = [], _TOP
        for share in _SHARES:
            found.append(QRectF(_LEFT, top, self.width - _LEFT - _RIGHT, room * share))
            top += room * share + _GAP
        return tuple(found)

    @cached_property
    def speed(self) -> Pane:
        """The upper pane: axis units/s over s from the begin of the move."""
        return Pane(self._boxes[0], self._time, self.frame.top_speed)

    @cached_property
    def handles(self) -> dict[str, QPointF]:
        """Where each handle is, by the key of its limit, in the order of the keys."""
        move, shape = self.move, shape_of(self.move.axis.axis.limits)
        if move.change is not None:
            return self._change_handles()
        phases = {phase.name: phase for phase in move.phases}
        ratio = float(move.axis.steps_per_unit)

        def middle(phase: Phase) -> QPointF:
            at = phase.begin_s + phase.seconds / 2
            return self.speed.point(at, abs(move.axis.train.speed_at(at + move.begin_s)) / ratio)

        found = {} if shape == "none" else {"start_speed": self.speed.point(0.0, move.corners[0][1])}
        if shape == "s_curve":
            times, speeds, _rates = move.axis.train.course()
            found["jerk"] = self.speed.point(float(times[0, 1]) - move.begin_s, abs(float(speeds[0, 1])) / ratio)
        if "acceleration" in phases and shape in _STEADY:
            found["acceleration"] = middle(phases["acceleration"])
        top = self.speed.point(*max(move.corners, key=lambda corner: corner[1]))
        found["speed"] = middle(phases["cruise"]) if "cruise" in phases else top
        if "deceleration" in phases and shape in _STEADY:
            found["deceleration"] = middle(phases["deceleration"])
        return found

    def _change_handles(self) -> dict[str, QPointF]:
        """A change between two speeds has the handle of its one acceleration, where that is a limit that is kept."""
        move = self.move
        for phase in move.phases:
            if phase.name != "cruise" and shape_of(move.axis.axis.limits) in _STEADY:
                at = phase.begin_s + phase.seconds / 2
                speed = abs(move.axis.train.speed_at(at + move.begin_s)) / float(move.axis.steps_per_unit)
                return {phase.name: self.speed.point(at, speed)}
        return {}

    # Painting

    def paint(self, painter: QPainter) -> Iterator[None]:
        """Paint all that stays, in parts."""
        theme, unit = self.theme, self.move.axis.axis.unit
        self.speed.paint_scale(painter, theme, f"speed, {unit}/s", 5)
        paint_time_axis(painter, theme, self._time, self._boxes[3].bottom() + 3, apart=110)
        # While a handle is held the scale stands still, and the curve may reach beyond it.
        painter.setClipRect(QRectF(0, 0, self.width - _RIGHT + 8, self.height))
        yield
        if self.ghost is not None and self.ghost is not self.move:
            painter.setPen(theme.pen(theme.color("muted"), 1.2, axis=1))
            painter.drawPolyline(self.speed.line(*_outline(self.ghost)))
        self.speed.paint_area(painter, theme, self.hue, *_outline(self.move), 2.2)
        yield
        machine, planned = self.move.plan.machine, self.move.axis
        spare = spare_of(machine, planned.axis)
        demand = demand_of(spare, planned, from_rest=self.move.change is None)
        TorquePane(demand, self.move.begin_s, spare.margin, self._boxes[1], self._time).paint(painter, theme, self.hue)
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
        pane = Pane(self._boxes[2], self._time, max(abs(float(move.distance)), 1e-12) * 1.001)
        pane.paint_scale(painter, self.theme, f"position, {move.axis.axis.unit}", 1)
        times = np.linspace(0.0, move.seconds, 120)
        way = np.abs(move.axis.ideal(times + move.begin_s)) / float(move.axis.steps_per_unit)
        painter.setPen(self.theme.pen(self.hue, 1.6))
        painter.drawPolyline(pane.line(times, way))

    def _paint_intervals(self, painter: QPainter) -> None:
        """A stem for each step, as long as the time to the next, under a line along their ends."""
        gaps = self.move.intervals_s
        if not len(gaps):
            pane = Pane(self._boxes[3], self._time, 1.0)
            pane.paint_scale(painter, self.theme, "between steps: fewer than two steps", 1)
            return
        top = min(float(gaps.max()), 12 * float(gaps.min()))
        unit, factor = ("ms", 1e3) if top >= 1e-3 else ("µs", 1e6)
        cut = "; the longest are cut off" if top < float(gaps.max()) else ""
        pane = Pane(self._boxes[3], self._time, top * factor * 1.05)
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
        return longest_intervals(instants, gaps, self.frame.seconds, int(self._boxes[3].width() / 2))


def _outline(move: TrialMove) -> tuple[list[float], list[float]]:
    """Return the corners of the speed curve, of a move down to 0 at both ends: s from its begin, axis units/s."""
    corners = move.corners
    if move.change is not None or not corners:
        return [t for t, _v in corners], [v for _t, v in corners]
    points = [(corners[0][0], 0.0), *corners, (corners[-1][0], 0.0)]
    return [t for t, _v in points], [v for _t, v in points]
