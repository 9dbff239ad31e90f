"""The speed curve of a move with handles to drag; below it, on the same time axis, position and step intervals."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPolygonF
from PySide6.QtWidgets import QWidget

from kivant.app.probing import Probe
from kivant.desktop import figures
from kivant.desktop.session import Session
from kivant.desktop.theme import font

_LEFT, _RIGHT, _TOP, _BOTTOM, _GAP = 62.0, 16.0, 26.0, 24.0, 34.0
_REACH = 13.0  # how near a handle must be clicked, pixels


@dataclass(frozen=True, slots=True)
class Frame:
    """The scale of the chart: kept while a handle is dragged, so that the hand and the curve stay together."""

    seconds: float
    top_speed: float


class RampChart(QWidget):
    """Draws a probe; ``drag`` is called with a limit's key, its new value, and whether it goes on a drag."""

    def __init__(self, session: Session, drag: Callable[[str, float, bool], None]) -> None:
        super().__init__()
        self.session, self._drag = session, drag
        self.probe: Probe | None = None
        self.ghost: Probe | None = None
        self.error = ""
        self.held: str | None = None
        self._frame = Frame(1.0, 1.0)
        self._goes_on = False
        self.setMouseTracking(True)
        self.setMinimumSize(420, 300)
        self.setAccessibleName("Speed, position and step intervals of the move")

    def show_probe(self, probe: Probe | None, error: str = "") -> None:
        """Show a move; the one before stays as a ghost until the next change."""
        before = self.probe
        if before is not None and probe is not None and self.held is None and before.axis.axis != probe.axis.axis:
            self.ghost = before if before.axis.name == probe.axis.name else None
        self.probe, self.error = probe, error
        if probe is not None and self.held is None:
            limits = probe.axis.axis.limits
            both = [p for p in (probe, self.ghost) if p]
            seconds = max(p.plan.duration - p.begin_s for p in both)
            top = max(max(p.axis.peak_speed for p in both), limits.start_speed)
            self._frame = Frame(max(seconds, 1e-9) * 1.02, (max(top, 1e-9)) * 1.18)
        self.update()

    # Geometry

    def _panes(self) -> tuple[QRectF, QRectF, QRectF]:
        room = self.height() - _TOP - _BOTTOM - 2 * _GAP
        width = self.width() - _LEFT - _RIGHT
        speed = QRectF(_LEFT, _TOP, width, room * 0.54)
        position = QRectF(_LEFT, speed.bottom() + _GAP, width, room * 0.21)
        return speed, position, QRectF(_LEFT, position.bottom() + _GAP, width, room * 0.25)

    def _x(self, seconds: float) -> float:
        return _LEFT + seconds / self._frame.seconds * (self.width() - _LEFT - _RIGHT)

    def _y(self, speed: float) -> float:
        pane = self._panes()[0]
        return pane.bottom() - speed / self._frame.top_speed * pane.height()

    def corners(self, probe: Probe) -> list[tuple[float, float]]:
        """Return the corners of the speed curve, s from its begin and axis units/s."""
        times, speeds = probe.axis.train.corners()
        ratio = float(probe.axis.steps_per_unit)
        return [(float(t) - probe.begin_s, abs(float(v)) / ratio) for t, v in zip(times, speeds, strict=True)]

    def handles(self) -> dict[str, QPointF]:
        """Return where each handle is, by the key of its limit."""
        if self.probe is None or not self.probe.plan.blocks:
            return {}
        corners = self.corners(self.probe)
        phases = {name: k for k, (name, _s, _d) in enumerate(self.probe.phases())}
        found = {"start_speed": QPointF(self._x(0.0), self._y(corners[0][1]))}
        peak = max(range(len(corners)), key=lambda k: corners[k][1])
        top = corners[peak]
        if "on" in phases:
            a, b = corners[2 * phases["on"]], corners[2 * phases["on"] + 1]
            top = ((a[0] + b[0]) / 2, a[1])
        found["speed"] = QPointF(self._x(top[0]), self._y(top[1]))
        for key, name in (("acceleration", "up"), ("deceleration", "down")):
            if name in phases:
                a, b = corners[2 * phases[name]], corners[2 * phases[name] + 1]
                found[key] = QPointF(self._x((a[0] + b[0]) / 2), self._y((a[1] + b[1]) / 2))
        return found

    # Mouse

    def _nearest(self, at: QPointF) -> str | None:
        near = {key: (place - at).manhattanLength() for key, place in self.handles().items()}
        key = min(near, key=lambda k: near[k], default=None)
        return key if key is not None and near[key] <= _REACH else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton and not self.session.running:
            self.held = self._nearest(event.position())
            self._goes_on = False
            if self.held and self.probe:
                self.ghost = self.probe

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.held is None:
            over = self._nearest(event.position())
            self.setCursor(Qt.CursorShape.SizeAllCursor if over else Qt.CursorShape.ArrowCursor)
            self.setToolTip(self._tip(over, event.position()))
            return
        value = self.value_at(self.held, event.position())
        if value is not None:
            self._drag(self.held, value, self._goes_on)
            self._goes_on = True

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        if self.held is not None:
            self.held = None
            probe, self.probe = self.probe, None
            self.show_probe(probe, self.error)

    def value_at(self, key: str, at: QPointF) -> float | None:
        """Return the value of a limit for its handle dragged to a point, None where it has none."""
        if self.probe is None:
            return None
        pane, limits = self._panes()[0], self.probe.axis.axis.limits
        speed = (pane.bottom() - at.y()) / pane.height() * self._frame.top_speed
        seconds = (at.x() - _LEFT) / (self.width() - _LEFT - _RIGHT) * self._frame.seconds
        least = self._frame.top_speed / 2000
        if key == "start_speed":
            return _rounded(min(max(speed, 0.0), limits.speed), least)
        if key == "speed":
            return _rounded(max(speed, least), least)
        base = min(limits.start_speed, limits.speed)
        length = self.probe.plan.duration - self.probe.begin_s
        run = seconds if key == "acceleration" else length - seconds
        rise = max(speed, base + least) - base
        steepest = 1000 * self._frame.top_speed / self._frame.seconds
        return _rounded(min(max(rise / max(run, 1e-12), steepest * 1e-6), steepest), steepest * 1e-6)

    def _tip(self, over: str | None, at: QPointF) -> str:
        if self.probe is None:
            return ""
        limits, unit = self.probe.axis.axis.limits, self.probe.axis.axis.unit
        if over:
            per = "s²" if over.endswith("celeration") else "s"
            return f"{over.replace('_', ' ')} {figures.short(getattr(limits, over))} {unit}/{per}: drag it"
        seconds = (at.x() - _LEFT) / (self.width() - _LEFT - _RIGHT) * self._frame.seconds
        if not 0 <= seconds <= self.probe.plan.duration - self.probe.begin_s:
            return ""
        axis, ratio = self.probe.axis, float(self.probe.axis.steps_per_unit)
        speed = abs(float(axis.train.speed(seconds + self.probe.begin_s))) / ratio
        place = float(axis.ideal(seconds + self.probe.begin_s)) / ratio
        return f"{seconds:.4f} s: {figures.short(speed)} {unit}/s at {figures.position(place)} {unit}"

    # Painting

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.session.theme
        if self.probe is None or not self.probe.plan.blocks:
            painter.setPen(theme.color("bad" if self.error else "muted"))
            painter.setFont(font("text"))
            flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(QRectF(self.rect()).adjusted(40, 0, -40, 0), flags, self.error or "A move of nothing.")
            return
        speed, position, intervals = self._panes()
        unit = self.probe.axis.axis.unit
        self._paint_scale(painter, speed, self._frame.top_speed, f"speed, {unit}/s")
        self._paint_time(painter, intervals.bottom())
        if self.ghost is not None and self.ghost is not self.probe:
            painter.setPen(theme.pen(theme.color("muted"), 1.2, axis=1))
            painter.drawPolyline(self._outline(self.ghost))
        hue = theme.axis(self.session.selected)
        outline = self._outline(self.probe)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.tint(hue, 0.13))
        painter.drawPolygon(outline)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(theme.pen(hue, 2.2))
        painter.drawPolyline(outline)
        self._paint_position(painter, position)
        self._paint_intervals(painter, intervals)
        for key, place in self.handles().items():
            painter.setPen(theme.pen(hue, 2))
            painter.setBrush(theme.color("accent" if key == self.held else "sheet"))
            painter.drawEllipse(place, 6, 6)

    def _outline(self, probe: Probe) -> QPolygonF:
        corners = self.corners(probe)
        first, last = corners[0], corners[-1]
        points = [(first[0], 0.0), *corners, (last[0], 0.0)]
        return QPolygonF([QPointF(self._x(t), self._y(v)) for t, v in points])

    def _paint_scale(self, painter: QPainter, pane: QRectF, top: float, title: str, marks: int = 5) -> None:
        theme = self.session.theme
        painter.setFont(font("small"))
        painter.setPen(theme.color("muted"))
        painter.drawText(QRectF(4, pane.top() - 22, 300, 18), Qt.AlignmentFlag.AlignVCenter, title)
        step = figures.nice_span(top / marks)
        for k in range(int(top / step + 1e-9) + 1):
            y = pane.bottom() - k * step / top * pane.height()
            painter.setPen(theme.pen(theme.tint(theme.color("edge"), 0.7), 1))
            painter.drawLine(QPointF(pane.left(), y), QPointF(pane.right(), y))
            painter.setPen(theme.color("muted"))
            right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            painter.drawText(QRectF(0, y - 9, _LEFT - 8, 18), right, figures.short(k * step))

    def _paint_time(self, painter: QPainter, bottom: float) -> None:
        theme = self.session.theme
        step = figures.nice_span(self._frame.seconds / max((self.width() - _LEFT) / 110, 1.0))
        for k in range(int(self._frame.seconds / step + 1e-9) + 1):
            x = self._x(k * step)
            painter.setPen(theme.color("muted"))
            painter.drawText(
                QRectF(min(x, self.width() - 32.0) - 40, bottom + 4, 80, 18),
                Qt.AlignmentFlag.AlignHCenter,
                f"{figures.short(k * step)} s",
            )

    def _paint_position(self, painter: QPainter, pane: QRectF) -> None:
        assert self.probe is not None
        probe, theme = self.probe, self.session.theme
        reach = max(abs(float(probe.distance)), 1e-12)
        self._paint_scale(painter, pane, reach * 1.001, f"way, {probe.axis.axis.unit}", marks=2)
        times = np.linspace(0.0, probe.plan.duration - probe.begin_s, 160)
        way = np.abs(probe.axis.ideal(times + probe.begin_s)) / float(probe.axis.steps_per_unit)
        line = [
            QPointF(self._x(t), pane.bottom() - w / reach * pane.height())
            for t, w in zip(times.tolist(), way.tolist(), strict=True)
        ]
        painter.setPen(theme.pen(theme.axis(self.session.selected), 1.6))
        painter.drawPolyline(QPolygonF(line))

    def _paint_intervals(self, painter: QPainter, pane: QRectF) -> None:
        """A stem for each step, as long as the time to the next; where there are thousands, their envelope."""
        assert self.probe is not None
        theme, instants = self.session.theme, self.probe.axis.instants - self.probe.begin_s
        gaps = self.probe.intervals_s()
        if not len(gaps):
            self._paint_scale(painter, pane, 1.0, "between steps: fewer than two steps", marks=1)
            return
        top = min(float(gaps.max()), 12 * float(gaps.min()))
        unit, factor = ("ms", 1e3) if top >= 1e-3 else ("µs", 1e6)
        self._paint_scale(painter, pane, top * factor * 1.05, f"between steps, {unit}", marks=2)
        columns = int(pane.width() / 2)
        if len(gaps) > columns:
            bins = np.minimum((instants[1:] / self._frame.seconds * columns).astype(int), columns - 1)
            longest = np.zeros(columns)
            np.maximum.at(longest, bins, gaps)
            shown = np.flatnonzero(longest)
            at, heights = (shown + 0.5) * self._frame.seconds / columns, longest[shown]
        else:
            at, heights = instants[1:], gaps
        painter.setPen(theme.pen(theme.axis(self.session.selected), 1))
        x = _LEFT + at / self._frame.seconds * (self.width() - _LEFT - _RIGHT)
        y = pane.bottom() - np.minimum(heights / (top * 1.05), 1.0) * pane.height()
        bottom = pane.bottom()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)  # hundreds of upright lines need none
        painter.drawLines([QLineF(a, bottom, a, b) for a, b in zip(x.tolist(), y.tolist(), strict=True)])
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)


def _rounded(value: float, grain: float) -> float:
    """Return a dragged value on a grain a person would type."""
    step = figures.nice_span(grain)
    return float(f"{round(value / step) * step or step if value > 0 else 0.0:.9g}")
