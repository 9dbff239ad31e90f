"""Lanes: every axis's speed over time, one above the other, with a plate for each block, all worked on directly."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QPointF, Qt, Signal
from PySide6.QtGui import QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QResizeEvent, QWheelEvent
from PySide6.QtWidgets import QToolTip

from kivant.core.program.sentences import sentence, units_of
from kivant.desktop.kit import figures
from kivant.desktop.kit.chart import paint_handles
from kivant.desktop.state.session import Session
from kivant.desktop.stations.routine.acts import Acts
from kivant.desktop.stations.routine.lane_drag import LaneDrag
from kivant.desktop.stations.routine.lane_picture import AXIS, LEFT, RIGHT, LanePicture
from kivant.desktop.stations.routine.plates import place_of_entry
from kivant.desktop.stations.routine.program import number_of
from kivant.desktop.stations.routine.stretches import stretch_of
from kivant.desktop.stations.routine.view_span import ViewSpan

_ZOOM = 1.25  # for one notch of the wheel
_DIVE = 0.1  # at a double click on many blocks


class RoutineLanes(LanePicture):
    """The lanes under a hand; ``line_wanted`` asks for the line of the current block to be typed."""

    line_wanted = Signal()

    def __init__(self, session: Session, acts: Acts) -> None:
        super().__init__(session, acts.program)
        self.drag = LaneDrag(self, acts)
        session.playhead_moved.connect(self.update)
        self.program.chosen_changed.connect(self._show_chosen)
        self.setMinimumHeight(150)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setAccessibleName("Blocks and speeds over time")
        self.setAccessibleDescription("Every axis's speed over time, with a plate for each block on top.")

    def _show_chosen(self) -> None:
        """Bring the current block into view, where it is not."""
        stretch = stretch_of(self.plan, self.program.blocks, self.program.current)
        if stretch is not None and not self.drag.holding:
            self.set_span(self.span.showing(*stretch))

    def paint_moving(self, painter: QPainter) -> None:
        plan, theme, scale = self.plan, self.session.theme, self.scale
        if plan is None or not len(plan.blocks) or not scale.per_unit:
            return
        x = scale.at(self.session.playhead.time_s)
        if LEFT <= x <= self.width() - RIGHT + 1:
            painter.setPen(theme.pen(theme.color("accent"), 2))
            painter.drawLine(QPointF(x, 0), QPointF(x, self.height() - AXIS + 4))
        for (index, kind), place in self.drag.handles().items():
            held = self.drag.holding == (index, kind)
            paint_handles(painter, theme, theme.axis(index), {kind: place}, kind if held else None, None)
        if self.drag.mark is not None:
            painter.setPen(theme.pen(theme.color("accent"), 3))
            painter.drawLine(QPointF(self.drag.mark, 0), QPointF(self.drag.mark, self.band))
        self.drag.paint_words(painter)

    # Hand

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self.drag.press(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self.drag.move(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.drag.release(event)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        plate = self.plate_at(event.position().x(), event.position().y())
        if plate is not None and plate.first != plate.last and self.plan:
            listed = self.plan.blocks.listed
            begin, end = float(listed.begin_s[plate.first]), float(listed.end_s[plate.last])
            wide = end - begin > self.span.seconds / 2  # all that is seen: it goes to where the hand is
            around = self.scale.value(event.position().x())
            self.set_span(self.span.zoomed(_DIVE, around) if wide else ViewSpan(begin, end, self.span.whole).inside())
        elif plate is not None:
            self.line_wanted.emit()

    def wheelEvent(self, event: QWheelEvent) -> None:
        across, up = event.angleDelta().x(), event.angleDelta().y()
        if across or event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self.set_span(self.span.shifted(-(across or up) / 120 * self.span.seconds * 0.1))
        elif up:
            self.set_span(self.span.zoomed(_ZOOM ** (-up / 120), self.scale.value(event.position().x())))
        event.accept()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.text() in ("+", "-", "−"):
            factor = 1 / _ZOOM if event.text() == "+" else _ZOOM
            inside = self.span.begin <= self.session.playhead.time_s <= self.span.end
            middle = self.session.playhead.time_s if inside else (self.span.begin + self.span.end) / 2
            self.set_span(self.span.zoomed(factor, middle))
        elif event.text() == "0":
            self.fit()
        else:
            event.ignore()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.redraw()

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip and isinstance(event, QHelpEvent):
            QToolTip.showText(event.globalPos(), self.tip(event.pos().x(), event.pos().y()), self)
            return True
        return super().event(event)

    def tip(self, x: float, y: float) -> str:
        """Return what is to be said of a point."""
        plan, time_s = self.plan, self.scale.value(x)
        if plan is None or not 0 <= time_s <= plan.duration:
            return ""
        plate = self.plate_at(x, y)
        if plate is not None and plate.first == plate.last:
            listed = plan.blocks.listed
            seconds = float(listed.end_s[plate.first] - listed.begin_s[plate.first])
            number = number_of(place_of_entry(plan, plate.first))
            said = figures.signed(sentence(listed.block(plate.first), units_of(plan.machine)))
            return f"{number}  {said}, {seconds:.6g} s"
        lines = [f"{time_s:.6g} s"]
        for axis in plan.axes:
            ratio = float(axis.steps_per_unit)
            speed, at = axis.train.speed_at(time_s) / ratio, axis.ideal_at(time_s) / ratio
            lines.append(
                f"{axis.name}: {figures.short(at)} {axis.axis.unit}, {figures.short(speed)} {axis.axis.unit}/s"
            )
        return "\n".join(lines)
