"""The levels of the selected axis's lines over a short time around the playhead."""

from __future__ import annotations

import bisect
from collections.abc import Iterator

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPolygonF

from kivant.core.drive.drivers import board_lines
from kivant.core.plan import AxisPlan
from kivant.core.signals import Signal, signals_between
from kivant.desktop.kit import figures
from kivant.desktop.kit.fill import fill
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.widgets.pictured import Pictured

_NAMES = 92.0  # width of the lines' names
_MOST_ROOM = 34.0
_BESIDE_S = 1e-9  # within a block
_BY_HAND = "While an axis is moved by hand, its lines are not planned."
_GOING_ON = "What is left of the routine is run now; its lines are shown again when it has ended."


def window_s(session: Session, axis: AxisPlan) -> float:
    """Return how long a time to show: about ten steps at the axis's peak speed in the block at the playhead."""
    blocks = session.planning.plan.blocks if session.planning.plan else ()
    index = bisect.bisect_right(blocks, session.playhead.time_s, key=lambda block: block.begin_s) - 1
    peak = 0.0
    if index >= 0:
        begin, end = blocks[index].begin_s + _BESIDE_S, blocks[index].end_s - _BESIDE_S
        times, speeds = axis.train.corners(1, (begin, end))
        peak = float(np.abs(speeds[times > begin]).max(initial=0.0))
    peak = peak or axis.peak_pulse_hz
    return figures.nice_span(10 / peak) if peak else 1.0


class LineStrip(Pictured):
    """The selected axis's lines around the playhead, each with the board's line it is wired to."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, session.selection_changed, session.plan_changed, session.theme_changed)
        self.setMinimumHeight(128)
        self.setAccessibleName("Lines around the playhead")
        session.playhead_moved.connect(self.update)

    def _room(self, count: int) -> float:
        return min((self.height() - 34) / count, _MOST_ROOM)

    def paint_ground(self, painter: QPainter) -> Iterator[None]:
        axis, theme = self.session.instant.axis_plan, self.session.theme
        if axis is None:
            return
        wired = board_lines(axis.axis.driver)
        room = self._room(len(wired))
        for row, (key, line) in enumerate(wired.items()):
            base = 4 + (row + 1) * room - 5
            painter.setFont(font("strong"))
            painter.setPen(theme.color("ink"))
            painter.drawText(QRectF(0, base - 19, 44, 20), Qt.AlignmentFlag.AlignVCenter, key)
            painter.setFont(font("small"))
            painter.setPen(theme.color("muted"))
            name = painter.fontMetrics().elidedText(line, Qt.TextElideMode.ElideRight, 42)
            painter.drawText(QRectF(44, base - 19, 44, 20), Qt.AlignmentFlag.AlignVCenter, name)
            yield

    def paint_moving(self, painter: QPainter) -> None:
        axis, theme, plan = self.session.instant.axis_plan, self.session.theme, self.session.planning.plan
        if axis is None or plan is None:
            return
        painter.setFont(font("small"))
        if self.session.instant.counted:
            painter.setPen(theme.color("muted"))
            place = QRectF(_NAMES, 4, self.width() - _NAMES, self.height() - 4)
            text = _GOING_ON if self.session.running.going_on else _BY_HAND
            painter.drawText(place, Qt.TextFlag.TextWordWrap, text)
            return
        now, span = self.session.playhead.time_s, window_s(self.session, axis)
        signals = signals_between(axis, now - span / 2, now + span / 2, plan.powered_s)
        room = self._room(len(signals))
        left, right, top, bottom = _NAMES, self.width() - 14.0, 4.0, 4.0 + room * len(signals)
        per_second = (right - left) / span
        if now < span / 2:  # before the plan there is nothing
            begin = left + (span / 2 - now) * per_second
            fill(painter, QRectF(left, top, begin - left, bottom - top), theme.tint(theme.color("edge"), 0.35))
        painter.setPen(theme.pen(theme.axis(self.session.choice.index), 1.6))
        for row, signal in enumerate(signals):
            base = top + (row + 1) * room - 5
            _paint_levels(
                painter, signal, QRectF(left, base - room + 11, right - left, room - 11), now - span / 2, span
            )
        middle = (left + right) / 2
        painter.setPen(theme.pen(theme.color("accent"), 2))
        painter.drawLine(QPointF(middle, top - 2), QPointF(middle, bottom + 4))
        painter.setPen(theme.color("muted"))
        unit, factor = ("s", 1.0) if span >= 1 else (("ms", 1e3) if span >= 1e-3 else ("µs", 1e6))
        caption = f"{span * factor:g} {unit} around the playhead"
        painter.drawText(QRectF(left, bottom + 4, right - left, 20), Qt.AlignmentFlag.AlignLeft, caption)


def _paint_levels(painter: QPainter, signal: Signal, box: QRectF, begin_s: float, span_s: float) -> None:
    heights = box.bottom(), box.top()
    y = heights[signal.before]
    corners = [QPointF(box.left(), y)]
    for at, new in signal.changes:
        x = box.left() + (at - begin_s) / span_s * box.width()
        corners.append(QPointF(x, y))
        y = heights[new]
        corners.append(QPointF(x, y))
    corners.append(QPointF(box.right(), y))
    painter.drawPolyline(QPolygonF(corners))
