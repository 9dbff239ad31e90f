"""Lanes: every axis's speed over time, one above the other, with the blocks of the routine on top."""

from __future__ import annotations

import bisect

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt
from PySide6.QtGui import QHelpEvent, QKeyEvent, QMouseEvent, QPainter
from PySide6.QtWidgets import QToolTip

from kivant.core.machine import Move
from kivant.core.plan import Plan, PlannedBlock
from kivant.desktop import figures
from kivant.desktop.curves import path_of
from kivant.desktop.pictured import Pictured
from kivant.desktop.session import Session
from kivant.desktop.theme import font

_LEFT, _RIGHT, _BAND, _AXIS = 30, 12, 30, 24


class Lanes(Pictured):
    """The speeds of a plan; a click or drag moves the playhead there."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.setMinimumHeight(130)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setAccessibleName("Speeds over time")
        self.setAccessibleDescription("Every axis's speed over the time of the plan, with its blocks on top.")
        self.setCursor(Qt.CursorShape.CrossCursor)
        session.selection_changed.connect(self.redraw)

    def _span(self) -> tuple[float, float]:
        """Return where time 0 is, and how many pixels a second takes."""
        duration = self.session.duration_s
        return _LEFT, (self.width() - _LEFT - _RIGHT) / duration if duration > 0 else 0.0

    def time_at(self, x: float) -> float:
        """Return the time under a pixel column."""
        left, per_second = self._span()
        return (x - left) / per_second if per_second else 0.0

    def block_at(self, time_s: float) -> PlannedBlock | None:
        """Return the block in force at a time."""
        blocks = self.session.plan.blocks if self.session.plan else ()
        index = bisect.bisect_right(blocks, time_s, key=lambda block: block.begin_s) - 1
        return blocks[index] if index >= 0 else None

    def paint_playhead(self, painter: QPainter) -> None:
        left, per_second = self._span()
        if per_second and self.session.plan and self.session.plan.blocks:
            x = left + self.session.playhead_s * per_second
            painter.setPen(self.session.theme.pen(self.session.theme.color("accent"), 2))
            painter.drawLine(QPointF(x, 0), QPointF(x, self.height() - _AXIS + 4))

    def paint_ground(self, painter: QPainter) -> None:
        plan, theme = self.session.plan, self.session.theme
        if plan is None or not plan.blocks:
            painter.setPen(theme.color("muted"))
            painter.setFont(font("text"))
            painter.drawText(QRectF(self.rect()), Qt.AlignmentFlag.AlignCenter, self._empty_text())
            return
        self._paint_time(painter)
        self._paint_blocks(painter, plan)
        left, per_second = self._span()
        room = (self.height() - _BAND - _AXIS) / len(plan.axes)
        names = figures.letters(plan.machine)
        for index in range(len(plan.axes)):
            base = _BAND + (index + 1) * room
            hue = theme.axis(index)
            painter.setPen(theme.pen(theme.color("edge"), 1))
            painter.drawLine(QPointF(left, base), QPointF(self.width() - _RIGHT, base))
            path = path_of(self.session.curves[index], left, base, per_second, room * 0.78)
            painter.fillPath(path, theme.tint(hue, 0.13))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(theme.pen(hue, 1.6, axis=index))
            painter.drawPath(path)
            painter.setPen(hue)
            painter.setFont(font("strong"))
            if room < 13 and index != self.session.selected:
                continue
            label = QRectF(0, base - min(room, 22), left - 8, min(room, 22))
            painter.drawText(label, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignBottom, names[index])

    def _empty_text(self) -> str:
        session = self.session
        if not session.machine.axes:
            return "This machine has no axes yet. Open another one with Ctrl+O."
        if session.plan_error is not None:
            return "No plan: " + session.plan_error.faults[0].message
        return "Nothing moves yet." if session.plan else "Planning …"

    def _paint_time(self, painter: QPainter) -> None:
        theme = self.session.theme
        left, per_second = self._span()
        painter.setFont(font("small"))
        base = self.height() - _AXIS
        if not per_second:
            return
        step = figures.nice_span(90 / per_second)
        mark, most = 0, int(self.session.duration_s / step + 1e-9)
        for mark in range(most + 1):
            x = left + mark * step * per_second
            painter.setPen(theme.pen(theme.tint(theme.color("edge"), 0.55), 1))
            painter.drawLine(QPointF(x, _BAND), QPointF(x, base))
            painter.setPen(theme.color("muted"))
            text = f"{mark * step:g} s"
            flags = Qt.AlignmentFlag.AlignTop | (Qt.AlignmentFlag.AlignHCenter if mark else Qt.AlignmentFlag.AlignLeft)
            x = min(x, self.width() - 24.0)
            painter.drawText(QRectF(x - (45 if mark else 4), base + 5, 90, 18), flags, text)

    def _paint_blocks(self, painter: QPainter, plan: Plan) -> None:
        theme = self.session.theme
        left, per_second = self._span()
        painter.setFont(font("small"))
        metrics = painter.fontMetrics()
        drawn_to = -1.0
        for block in plan.blocks:
            x, right = left + block.begin_s * per_second, left + block.end_s * per_second
            if right - drawn_to < 1.0:  # thousands of blocks: no more than one to a pixel
                continue
            drawn_to = right
            rect = QRectF(x + 1, 2, max(right - x - 2, 1.0), _BAND - 10)
            painter.setPen(theme.pen(theme.color("edge"), 1))
            painter.setBrush(theme.color("sheet") if block.block.do == "move" else Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(rect, 4, 4) if rect.width() > 8 else painter.drawRect(rect)
            text = metrics.elidedText(
                self.block_text(block, short=True), Qt.TextElideMode.ElideRight, int(rect.width() - 6)
            )
            if rect.width() > 26 and text != "…":
                painter.setPen(theme.color("ink"))
                painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, text)

    def block_text(self, block: PlannedBlock, *, short: bool = False) -> str:
        """Return what a block does, in a few words."""
        if not isinstance(block.block, Move):
            return "pause" if short else f"block {block.index + 1}: pause of {block.block.seconds:g} s"
        machine = self.session.plan.machine if self.session.plan else self.session.machine
        order = [axis.name for axis in machine.axes]
        moved = {*(block.block.to or {}), *(block.block.by or {})}
        named = [name for name in order if name in moved]
        if short:
            names = figures.letters(machine)
            return " + ".join(names[order.index(n)] for n in named) if len(named) > 1 else named[0]
        return f"block {block.index + 1}: {' + '.join(named)}"

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton and not self.session.running:
            self.session.set_playhead(self.time_at(event.position().x()))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        event.ignore()

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip and isinstance(event, QHelpEvent):
            QToolTip.showText(event.globalPos(), self._tip(self.time_at(event.pos().x())), self)
            return True
        return super().event(event)

    def _tip(self, time_s: float) -> str:
        plan = self.session.plan
        if plan is None or not 0 <= time_s <= plan.duration:
            return ""
        block = self.block_at(time_s)
        lines = [f"{time_s:.4f} s" + (f", {self.block_text(block)}" if block else "")]
        for axis in plan.axes:
            speed = float(axis.train.speed(time_s)) / float(axis.steps_per_unit)
            lines.append(f"{axis.name}: {figures.short(speed)} {axis.axis.unit}/s")
        return "\n".join(lines)
