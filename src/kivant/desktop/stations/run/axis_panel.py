"""One axis in the Run station: where it is commanded to be, what is counted, and where to send it."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetrics, QKeyEvent, QMouseEvent, QPainter
from PySide6.QtWidgets import QVBoxLayout, QWidget

from kivant.core.errors import Fault
from kivant.core.machine import Axis
from kivant.core.path import Path as KeyPath
from kivant.desktop.kit import figures
from kivant.desktop.kit.literal import literal
from kivant.desktop.kit.painted import painted
from kivant.desktop.kit.theme import Role, Token, font
from kivant.desktop.kit.wrong import mark_wrong
from kivant.desktop.state.session import Session
from kivant.desktop.widgets.value_field import Field

PANEL_HEIGHT = 92
COMPACT_HEIGHT = 48
FIELD_HEIGHT = 30


class TargetField(Field):
    """A target with or without a unit; Enter or leaving takes it, Esc gives the old one back."""

    def __init__(self, session: Session, axis: Axis) -> None:
        super().__init__()
        self.session, self.axis, self.axis_name = session, axis, axis.name
        self.setPlaceholderText(f"to, e.g. {'90deg' if axis.unit == 'deg' else '12.5mm'}")
        self.setAccessibleName(f"Target of {axis.name}")
        self.setMaxLength(400)
        self.setFixedHeight(FIELD_HEIGHT)
        self.editingFinished.connect(self.take)
        self.textEdited.connect(lambda _text: self.show_error(""))

    def take(self) -> None:
        """Plan with what is typed now."""
        session = self.session
        known = session.own_move.texts.get(self.axis_name, "")
        if self.text() != known or self.axis_name in session.own_move.errors:
            session.bench.set_target(self.axis_name, self.text())

    def show_error(self, text: str) -> None:
        """Mark the field as wrong, with the reason at hand."""
        mark_wrong(self, wrong=bool(text))
        hint = f"Target of {self.axis_name}: a number in {self.axis.unit}, or with another unit or steps."
        self.setToolTip(literal(text or hint))

    def _takes_back(self, event: QKeyEvent) -> bool:
        """Return whether a key means: give the old text back. While something moves, Esc is for stopping it."""
        known = self.session.own_move.texts.get(self.axis_name, "")
        typed = self.text() != known or self.axis_name in self.session.own_move.errors
        still = not self.session.running.active and not self.session.playhead.playing
        return event.key() == Qt.Key.Key_Escape and typed and still

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent) and self._takes_back(event):
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self._takes_back(event):
            self.setText(self.session.own_move.texts.get(self.axis_name, ""))
            self.session.own_move.forget_error(self.axis_name)
            return
        super().keyPressEvent(event)


def _of_axis(fault: Fault, name: str) -> bool:
    """Return whether a fault of a move is about the target of an axis."""
    return fault.place == name or (isinstance(fault.place, KeyPath) and fault.place.key == name)


class AxisPanel(QWidget):
    """Commanded and counted position of one axis at the playhead."""

    def __init__(self, session: Session, index: int, *, compact: bool = False) -> None:
        super().__init__()
        self.session, self.index, self.compact = session, index, compact
        self.axis, self.letter = session.document.machine.axes[index], figures.letters(session.document.machine)[index]
        self.field = TargetField(session, self.axis)
        self.setMinimumWidth(120)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addStretch(1)
        column.addWidget(self.field)
        self.setAccessibleName(f"Position of {self.axis.name}")
        for signal in (session.playhead_moved, session.selection_changed, session.theme_changed):
            signal.connect(self.update)
        for signal in (session.targets_changed, session.plan_changed, session.run_changed):
            signal.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show the target and whether it can be typed now."""
        session = self.session
        own = session.choice.routine_name is None
        self.field.setVisible(own)
        height = COMPACT_HEIGHT if self.compact else PANEL_HEIGHT
        self.setFixedHeight(height + (FIELD_HEIGHT + (0 if self.compact else 4) if own else 0))
        self.field.setEnabled(not session.running.active)
        error = session.own_move.errors.get(self.axis.name, "")
        if not error and not self.field.hasFocus():
            self.field.setText(session.own_move.texts.get(self.axis.name, ""))
        self.field.show_error(error or self._plan_fault())
        self.update()

    def _plan_fault(self) -> str:
        """Return what the plan has against this axis's target."""
        error = self.session.planning.error
        if error is None or self.session.choice.routine_name is not None:
            return ""
        faults = (fault for fault in error.faults if _of_axis(fault, self.axis.name))
        return next((fault.said for fault in faults), "")

    def words(self) -> tuple[str, Token, str]:
        """Return the line below the position, its token, and the same in full for the tool tip."""
        session, plan = self.session, self.session.planning.plan
        error = session.own_move.errors.get(self.axis.name) or self._plan_fault()
        if error and session.choice.routine_name is None:
            return error, "bad", error
        if plan is None or self.index >= len(plan.axes):
            return "no plan", "muted", "There is no plan."
        axis = plan.axes[self.index]
        status = session.running.status
        if counts := session.instant.counted:
            steps = figures.grouped(counts[self.index]) if self.index < len(counts) else "–"
            how = "going on" if session.running.going_on else "by hand"
            return f"{steps} counted, {how}", "accent", f"The board has counted {steps} steps."
        if status is not None and status.counts and session.running.plan is plan:
            counted = status.counts[self.index]
            steps = figures.grouped(counted)
            if not status.over:
                return f"{steps} counted", "accent", f"The board has counted {steps} steps."
            if counted == axis.final_steps:
                return f"{steps} counted, as planned", "good", f"The board counted {steps} steps, as planned."
            planned = figures.grouped(axis.final_steps)
            return (
                f"{steps} counted of {planned}",
                "warn",
                f"The board counted {steps} steps; {planned} were planned.",
            )
        exact = axis.ideal_at(session.playhead.time_s)
        nearest = axis.train.position_after(axis.train.taken(session.playhead.time_s))
        text = f"{figures.grouped(nearest)} steps, exactly {figures.position(exact)}"
        shown = f"{figures.grouped(nearest)} steps" if self.compact else text
        return (
            shown,
            "muted",
            f"{text}, at the playhead. The plan ends at step {figures.grouped(axis.final_steps)}.",
        )

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        session, theme = self.session, self.session.theme
        hue = theme.axis(self.index)
        selected = self.index == session.choice.index
        painter.setPen(theme.pen(hue, 3 if selected else 2, axis=self.index))
        painter.drawLine(QPointF(0, 2), QPointF(self.width(), 2))
        painter.setPen(hue)
        painter.setFont(font("strong"))
        line = 3 if self.compact else 9
        painter.drawText(QRectF(0, line, 20, 22), Qt.AlignmentFlag.AlignVCenter, self.letter)
        painter.setPen(theme.color("ink"))
        painter.setFont(font("heading"))
        room = self.width() - 20 - (self._paint_position(painter) if self.compact else 0)
        painter.setPen(theme.color("ink"))
        painter.setFont(font("heading"))
        name = painter.fontMetrics().elidedText(self.axis.name, Qt.TextElideMode.ElideRight, room)
        painter.drawText(QRectF(20, line, room, 22), Qt.AlignmentFlag.AlignVCenter, name)
        if not self.compact:
            self._paint_position(painter)
        text, token, full = self.words()
        painter.setFont(font("small"))
        painter.setPen(theme.color(token))
        shown = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, self.width())
        painter.drawText(QRectF(0, 25 if self.compact else 70, self.width(), 20), Qt.AlignmentFlag.AlignVCenter, shown)
        self.setToolTip(literal(full))

    def _paint_position(self, painter: QPainter) -> int:
        """Write the commanded position as large as there is room; return the width it took."""
        theme, value = self.session.theme, self.session.instant.position_of(self.index)
        room = self.width() // 2 if self.compact else self.width() - 34
        role: Role = "figure" if self.compact else "large"
        text = figures.position(value)
        if QFontMetrics(font(role)).horizontalAdvance(text) > room:
            role = "figure"
        if QFontMetrics(font(role)).horizontalAdvance(text) > room:
            text = figures.short(value)
        width = QFontMetrics(font(role)).horizontalAdvance(text)
        painter.setPen(theme.color("ink"))
        painter.setFont(font(role))
        if self.compact:
            right = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
            painter.drawText(QRectF(0, 3, self.width(), 22), right, text)
            return width + 6
        painter.drawText(QRectF(0, 32, self.width(), 36), Qt.AlignmentFlag.AlignVCenter, text)
        painter.setPen(theme.color("muted"))
        painter.setFont(font("text"))
        drop = 5 if role == "large" else 1
        painter.drawText(QRectF(width + 8, 32 + drop, 40, 36), Qt.AlignmentFlag.AlignVCenter, self.axis.unit)
        return width

    def mousePressEvent(self, _event: QMouseEvent) -> None:
        self.session.choice.select(self.index)
