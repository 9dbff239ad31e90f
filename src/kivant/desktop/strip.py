"""The levels of one axis's lines over a short time around the playhead."""

from __future__ import annotations

import bisect

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter

from kivant.core.driver import board_lines
from kivant.core.plan import AxisPlan
from kivant.core.signals import Signal, signals_between
from kivant.desktop import figures
from kivant.desktop.session import Session
from kivant.desktop.theme import font

_NAMES = 92.0  # width of the lines' names
_MOST_ROOM = 34.0


def window_s(session: Session, axis: AxisPlan) -> float:
    """Return how long a time to show: about ten steps at the axis's peak speed in the block at the playhead."""
    blocks = session.plan.blocks if session.plan else ()
    index = bisect.bisect_right(blocks, session.playhead_s, key=lambda block: block.begin_s) - 1
    peak = 0.0
    if index >= 0:  # a ramp is at its fastest just before it brakes
        peak = abs(float(axis.train.speed(blocks[index].braking_s - 1e-9)))
    peak = peak or axis.peak_pulse_hz
    return figures.nice_span(10 / peak) if peak else 1.0


def paint_strip(painter: QPainter, session: Session, axis: AxisPlan, box: QRectF) -> None:
    """Paint the strip of an axis into a box; while it is moved by hand there is no plan of its lines."""
    if session.counted_by_hand:
        painter.setFont(font("small"))
        painter.setPen(session.theme.color("muted"))
        place = box.adjusted(_NAMES, 4, 0, 0)
        painter.drawText(place, Qt.TextFlag.TextWordWrap, "While an axis is moved by hand, its lines are not planned.")
        return
    theme, now, span = session.theme, session.playhead_s, window_s(session, axis)
    signals = signals_between(axis, now - span / 2, now + span / 2, session.duration_s)
    wired = board_lines(axis.axis.driver)
    left, right, top = box.left() + _NAMES, box.right() - 14.0, box.top() + 4
    room = min((box.height() - 34) / len(signals), _MOST_ROOM)
    per_second, bottom = (right - left) / span, top + room * len(signals)
    if now < span / 2:  # before the plan there is nothing
        begin = left + (span / 2 - now) * per_second
        painter.fillRect(QRectF(left, top, begin - left, bottom - top), theme.tint(theme.color("edge"), 0.35))
    for row, signal in enumerate(signals):
        base = top + (row + 1) * room - 5
        painter.setFont(font("strong"))
        painter.setPen(theme.color("ink"))
        painter.drawText(QRectF(box.left(), base - 19, 44, 20), Qt.AlignmentFlag.AlignVCenter, signal.key)
        painter.setFont(font("small"))
        painter.setPen(theme.color("muted"))
        name = painter.fontMetrics().elidedText(wired[signal.key], Qt.TextElideMode.ElideRight, 42)
        painter.drawText(QRectF(box.left() + 44, base - 19, 44, 20), Qt.AlignmentFlag.AlignVCenter, name)
        painter.setPen(theme.pen(theme.axis(session.selected), 1.6))
        _paint_levels(painter, signal, QRectF(left, base - room + 11, right - left, room - 11), now - span / 2, span)
    middle = (left + right) / 2
    painter.setPen(theme.pen(theme.color("accent"), 2))
    painter.drawLine(QPointF(middle, top - 2), QPointF(middle, bottom + 4))
    painter.setPen(theme.color("muted"))
    painter.setFont(font("small"))
    unit, factor = ("s", 1.0) if span >= 1 else (("ms", 1e3) if span >= 1e-3 else ("µs", 1e6))
    caption = f"{span * factor:g} {unit} around the playhead"
    painter.drawText(QRectF(left, bottom + 4, right - left, 20), Qt.AlignmentFlag.AlignLeft, caption)


def _paint_levels(painter: QPainter, signal: Signal, box: QRectF, begin_s: float, span_s: float) -> None:
    x, level = box.left(), signal.before

    def y(level: int) -> float:
        return box.top() if level else box.bottom()

    for at, new in signal.changes:
        to = box.left() + (at - begin_s) / span_s * box.width()
        painter.drawLine(QPointF(x, y(level)), QPointF(to, y(level)))
        painter.drawLine(QPointF(to, y(level)), QPointF(to, y(new)))
        x, level = to, new
    painter.drawLine(QPointF(x, y(level)), QPointF(box.right(), y(level)))
