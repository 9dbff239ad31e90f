"""Lanes: every axis's speed over time, one above the other, with the blocks of the routine on top."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QEvent, QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPolygonF
from PySide6.QtWidgets import QToolTip

from kivant.core.motion.blocks import block_kind
from kivant.core.motion.plan import AxisPlan
from kivant.core.plan import Plan
from kivant.desktop.kit import figures
from kivant.desktop.kit.chart import Scale, paint_time_axis
from kivant.desktop.kit.curves import paint_curve
from kivant.desktop.kit.fill import fill
from kivant.desktop.kit.fitting import NARROWEST, write_fitting
from kivant.desktop.kit.theme import font
from kivant.desktop.kit.words import block_labels, block_words
from kivant.desktop.state.session import Session
from kivant.desktop.widgets.pictured import Pictured
from kivant.desktop.widgets.rotor_switch import paint_slip

_LEFT, _RIGHT, _BAND, _AXIS = 30, 12, 30, 24
_NARROWEST = 5.0  # a block that is narrower is drawn with its neighbours, pixels


class Lanes(Pictured):
    """The speeds of a plan; a click or drag moves the playhead there."""

    def __init__(self, session: Session) -> None:
        changes = session.plan_changed, session.following_changed, session.selection_changed, session.theme_changed
        super().__init__(session, *changes)
        session.playhead_moved.connect(self.update)
        self.setMinimumHeight(130)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setAccessibleName("Speeds over time")
        self.setAccessibleDescription("Every axis's speed over the time of the plan, with its blocks on top.")
        self.setCursor(Qt.CursorShape.CrossCursor)

    def span(self) -> tuple[float, float]:
        """Return where time 0 is, and how many pixels a second takes."""
        duration = self.session.planning.duration_s
        return _LEFT, (self.width() - _LEFT - _RIGHT) / duration if duration > 0 else 0.0

    def time_at(self, x: float) -> float:
        """Return the time under a pixel column."""
        left, per_second = self.span()
        return (x - left) / per_second if per_second else 0.0

    def paint_moving(self, painter: QPainter) -> None:
        left, per_second = self.span()
        if per_second and self.session.planning.plan and self.session.planning.plan.blocks:
            x = left + self.session.playhead.time_s * per_second
            painter.setPen(self.session.theme.pen(self.session.theme.color("accent"), 2))
            painter.drawLine(QPointF(x, 0), QPointF(x, self.height() - _AXIS + 4))

    def paint_ground(self, painter: QPainter) -> Iterator[None]:
        plan, theme = self.session.planning.plan, self.session.theme
        if plan is None or not plan.blocks:
            painter.setPen(theme.color("muted"))
            painter.setFont(font("text"))
            painter.drawText(QRectF(self.rect()), Qt.AlignmentFlag.AlignCenter, self._empty_text())
            return
        # All that is painted belongs to this plan, whatever comes between the parts.
        traces, (left, per_second) = self.session.planning.traces, self.span()
        self._paint_time(painter)
        yield
        yield from self._paint_blocks(painter, plan, left + traces.blocks * per_second)
        room = (self.height() - _BAND - _AXIS) / len(plan.axes)
        names = figures.letters(plan.machine)
        for index in range(len(plan.axes)):
            base = _BAND + (index + 1) * room
            hue = theme.axis(index)
            painter.setPen(theme.pen(theme.color("edge"), 1))
            painter.drawLine(QPointF(left, base), QPointF(self.width() - _RIGHT, base))
            box = QRectF(left, base - room * 0.78, plan.duration * per_second, room * 0.78)
            self._paint_take_ups(painter, plan.axes[index], index, box, per_second)
            yield from paint_curve(painter, theme, index, traces.curves[index], box, per_second)
            self._paint_rotor(painter, index, box, per_second)
            painter.setPen(hue)
            painter.setFont(font("strong"))
            if room < 13 and index != self.session.choice.index:
                continue
            label = QRectF(0, base - 22, left - 8, 22)
            painter.drawText(label, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignBottom, names[index])

    def _empty_text(self) -> str:
        session = self.session
        if session.planning.error is not None:
            return "No plan: " + session.planning.error.faults[0].message
        return "Nothing moves yet." if session.planning.plan else "Planning …"

    def _paint_time(self, painter: QPainter) -> None:
        left, per_second = self.span()
        if per_second:
            duration = self.session.planning.duration_s
            scale = Scale(0.0, duration, left, left + duration * per_second)
            base = self.height() - _AXIS
            words = "{:g}".format
            paint_time_axis(painter, self.session.theme, scale, base + 5, apart=90, grid=(_BAND, base), words=words)

    def _paint_blocks(self, painter: QPainter, plan: Plan, spans: NDArray[np.float64]) -> Iterator[None]:
        """Paint a slip for each block; where they are too narrow to be told apart, one for all in a row."""
        theme = self.session.theme
        narrow = spans[:, 1] - spans[:, 0] < _NARROWEST
        firsts = np.flatnonzero(~narrow | np.append(True, ~narrow[:-1]))
        lasts = np.append(firsts[1:], len(spans)) - 1
        for first, last in zip(firsts.tolist(), lasts.tolist(), strict=True):
            alone = first == last
            painter.setPen(theme.pen(theme.color("edge"), 1))
            hollow = alone and not block_kind(plan.blocks[first].block).moves
            painter.setBrush(Qt.BrushStyle.NoBrush if hollow else theme.color("sheet"))
            x, right = spans[first, 0], spans[last, 1]
            rect = QRectF(x + 1, 2, max(right - x - 2, 1.0), _BAND - 10)
            painter.drawRoundedRect(rect, 4, 4) if rect.width() > 8 else painter.drawRect(rect)
            if rect.width() >= NARROWEST:
                many = f"{figures.grouped(last - first + 1)} blocks"
                texts = block_labels(plan.machine, plan.blocks[first].block) if alone else (many,)
                painter.setFont(font("small"))
                write_fitting(painter, theme.color("ink"), rect, texts, 6)
            yield

    def _paint_take_ups(self, painter: QPainter, axis: AxisPlan, index: int, box: QRectF, per_second: float) -> None:
        """Hatch the times in which an axis takes up its play, and the tool stands; those in one pixel once."""
        theme, hue = self.session.theme, self.session.theme.axis(index)
        begin, end = (np.floor(box.left() + times * per_second) for times in axis.taken[:2])
        for x, width in sorted(set(zip(begin.tolist(), np.maximum(end - begin, 2.0).tolist(), strict=True))):
            band = QRectF(x, box.top(), width, box.height())
            fill(painter, band, theme.tint(hue, 0.25))
            painter.fillRect(band, QBrush(hue, Qt.BrushStyle.BDiagPattern))

    def _paint_rotor(self, painter: QPainter, index: int, box: QRectF, per_second: float) -> None:
        """Paint how far the simulated rotor lags, half an electrical turn as high as full speed, and where it slips."""
        found, theme = self.session.following.of(index), self.session.theme
        if found is None:
            return
        times, shares = found.lag
        x, y = box.left() + times * per_second, box.bottom() - shares * box.height()
        painter.setPen(theme.pen(theme.color("ink"), 1, axis=2))
        painter.drawPolyline(QPolygonF(list(map(QPointF, x.tolist(), y.tolist()))))
        for at in sorted({round(box.left() + time * per_second) for time in found.slips_s.tolist()}):
            paint_slip(painter, theme, at, box.top(), box.bottom())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton and not self.session.running.active:
            self.session.playhead.go(self.time_at(event.position().x()))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        event.ignore()

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip and isinstance(event, QHelpEvent):
            QToolTip.showText(event.globalPos(), self._tip(self.time_at(event.pos().x())), self)
            return True
        return super().event(event)

    def _tip(self, time_s: float) -> str:
        plan = self.session.planning.plan
        if plan is None or not 0 <= time_s <= plan.duration:
            return ""
        block = self.session.planning.block_at(time_s)
        lines = [f"{time_s:.4f} s" + (f", {block_words(plan, block)}" if block else "")]
        for index, axis in enumerate(plan.axes):
            speed = axis.train.speed_at(time_s) / float(axis.steps_per_unit)
            takes = axis.taken
            at = int(np.searchsorted(takes.begin_s, time_s, "right")) - 1
            up = ", takes up its play" if at >= 0 and time_s < takes.end_s[at] else ""
            lag = self.session.following.lag_at(index, time_s)
            behind = "" if lag is None else f", rotor {lag:.0f} deg behind" if abs(lag) < 180 else ", rotor has slipped"
            lines.append(f"{axis.name}: {figures.short(speed)} {axis.axis.unit}/s{up}{behind}")
        return "\n".join(lines)
