"""Cards of the Travel station: motor, stages and tool, each drawn as it moves, with its numbers to type in place."""

from __future__ import annotations

from fractions import Fraction

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetrics, QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from kivant.app import editing
from kivant.core.machine import Axis, Belt, Gear, Ratio, Screw, Stage
from kivant.core.travel import stage_ratio, steps_per_rev
from kivant.desktop import figures
from kivant.desktop.session import Session
from kivant.desktop.stage_pictures import Brush, paint_motor, paint_stage, paint_tool, shaft_turns, stage_words
from kivant.desktop.theme import font
from kivant.desktop.value_field import ValueField

_NUMBERS: dict[type, tuple[tuple[str, str], ...]] = {
    Gear: (("driving", "driving teeth"), ("driven", "driven teeth")),
    Ratio: (("ratio", "ratio"),),
    Belt: (("pitch", "belt pitch"), ("teeth", "pulley teeth")),
    Screw: (("lead", "screw lead"),),
}
_ABOVE, _BELOW = 28, 66  # pixels of a card for the buttons over its picture, and for figures and words under it
_UNITS = {"pitch": " mm", "lead": " mm", "teeth": " teeth", "driving": " teeth", "driven": " teeth"}


class Card(QWidget):
    """A part of the chain on one shaft line."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setMinimumSize(96, 150)

    def refresh(self) -> None:
        """Show the axis as it is now."""
        self.update()

    def follow(self) -> None:
        """Have the picture painted anew as the axis stands now, and not what stands above and below it."""
        self.update(0, _ABOVE, self.width(), self.height() - _ABOVE - _BELOW)

    def place(self, axis: Axis) -> tuple[float, float]:
        """Return the position that is shown, in axis units, and its share of the way between the ends."""
        position = self.session.position_of(self.session.selected)
        begin, span = figures.stretch(axis.limits.min, axis.limits.max, position)
        return position, (position - begin) / span

    def brush(self, painter: QPainter, begin: float, end: float) -> Brush:
        """Return what to draw the part with, after drawing the shaft it sits on from `begin` to `end`, in widths."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, middle = self.session.theme, QPointF(self.width() / 2, self.height() * 0.40)
        painter.setPen(theme.pen(theme.color("ink"), 2.4))
        painter.drawLine(QPointF(begin * self.width(), middle.y()), QPointF(end * self.width(), middle.y()))
        return Brush(painter, theme, theme.axis(self.session.selected), middle)

    def caption(self, painter: QPainter, text: str, row: int = 0) -> None:
        """Write a line at the card's bottom."""
        painter.setFont(font("small"))
        painter.setPen(self.session.theme.color("muted"))
        shown = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, self.width() - 4)
        painter.drawText(
            QRectF(2, self.height() - 20 - 18 * row, self.width() - 4, 18), Qt.AlignmentFlag.AlignHCenter, shown
        )


class MotorCard(Card):
    """The rotor: its full steps, and the steps of a revolution."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        key = "motor.full_steps_per_rev"
        self.field = ValueField(session, "Full steps per revolution", self._text, self._take, "figure", key=key)
        self.field.setAlignment(Qt.AlignmentFlag.AlignHCenter)
        self.field.setFixedWidth(70)
        column = QVBoxLayout(self)
        column.setContentsMargins(2, 0, 2, 40)
        column.addStretch(1)
        column.addWidget(self.field, 0, Qt.AlignmentFlag.AlignHCenter)

    def _text(self) -> str:
        axis = self.session.axis
        return str(axis.motor.full_steps_per_rev) if axis else ""

    def _take(self, text: str, goes_on: bool) -> None:
        axis = self.session.machine.axes[self.session.selected]
        self.session.edit(
            editing.full_steps(self.session.selected, text), f"full steps of {axis.name}", goes_on=goes_on
        )

    def refresh(self) -> None:
        """Show the motor as it is now."""
        self.field.refresh()
        if (axis := self.session.axis) is not None:
            self.setToolTip(
                f"Motor: {self._text()} full steps a revolution, {steps_per_rev(axis)} steps as it is driven."
            )
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        axis = self.session.axis
        if axis is None:
            return
        painter = QPainter(self)
        half = min(self.width() * 0.42, self.height() * 0.24, 80.0)
        paint_motor(self.brush(painter, 0.5, 1.0), half, shaft_turns(axis, self.place(axis)[0])[0])
        self.caption(painter, f"{steps_per_rev(axis)} steps/rev")
        self.caption(painter, "full steps", row=1)


class ToolCard(Card):
    """What moves in the end: a turning or a sliding tool, and between which positions."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.fields = [self._field("min", "least position"), self._field("max", "greatest position")]
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 0, 2, 14)
        column.setSpacing(2)
        column.addStretch(1)
        for word, field in zip(("from", "to"), self.fields, strict=True):
            label = QLabel(word)
            label.setFont(font("small"))
            label.setFixedWidth(28)
            label.setBuddy(field)
            row = QHBoxLayout()
            row.setSpacing(2)
            row.addStretch(1)
            row.addWidget(label)
            row.addWidget(field, 100)
            row.addStretch(1)
            field.setMaximumWidth(180)
            column.addLayout(row)

    def _field(self, key: str, name: str) -> ValueField:
        def show() -> str:
            axis = self.session.axis
            bound = getattr(axis.limits, key) if axis else None
            return f"{figures.plain(float(bound))} {axis.unit}" if axis and bound is not None else editing.FREE

        def take(text: str, goes_on: bool) -> None:
            axis = self.session.machine.axes[self.session.selected]
            edit = editing.limit(self.session.selected, key, text)
            self.session.edit(edit, f"{name} of {axis.name}", goes_on=goes_on)

        field = ValueField(self.session, name.capitalize(), show, take, key=f"limits.{key}")
        field.setToolTip(f"{field.toolTip()}\nEmpty, or “{editing.FREE}”, for no limit.")
        return field

    def refresh(self) -> None:
        """Show the axis as it is now."""
        for field in self.fields:
            field.refresh()
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        axis = self.session.axis
        if axis is None:
            return
        painter = QPainter(self)
        position, share = self.place(axis)
        brush = self.brush(painter, 0.0, 0.5 if axis.unit == "deg" else 0.0)
        paint_tool(brush, axis, position, share, min(self.width() * 0.36, self.height() * 0.26), self.width() * 0.42)


class StageCard(Card):
    """One stage, by its place in the chain."""

    def __init__(self, session: Session, position: int) -> None:
        super().__init__(session)
        self.position = position
        stage = self.stage()
        self._kind = type(stage)
        self.fields = [self._field(key, name) for key, name in _NUMBERS[type(stage)]]
        self.earlier = self._small("‹", "Move this stage towards the rotor")
        self.later = self._small("›", "Move this stage towards the tool")
        self.remove = self._small("×", "Take this stage out")
        numbers = QHBoxLayout()
        numbers.setSpacing(2)
        for field in self.fields:
            numbers.addWidget(field)
        tools = QHBoxLayout()
        tools.setSpacing(0)
        tools.addStretch(1)
        for button in (self.earlier, self.remove, self.later):
            tools.addWidget(button)
        tools.addStretch(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(2, 0, 2, 40)
        column.addLayout(tools)
        column.addStretch(1)
        column.addLayout(numbers)

    def _small(self, text: str, tip: str) -> QPushButton:
        button = QPushButton(text)
        button.setProperty("kind", "plain")
        button.setFont(font("figure"))
        button.setFixedSize(32, 28)
        button.setToolTip(tip)
        button.setAccessibleName(tip)
        return button

    def stage(self) -> Stage | None:
        """Return the stage as it is now; None where the selected axis has none there."""
        axis = self.session.axis
        return axis.travel[self.position] if axis and self.position < len(axis.travel) else None

    def _field(self, key: str, name: str) -> ValueField:
        def show() -> str:
            number = str(getattr(self.stage(), key, ""))
            whole = f"{number}{_UNITS.get(key, '')}"
            # Where many stages stand side by side, the unit gives way; the name under the mouse has it still.
            return (
                whole if QFontMetrics(font("strong")).horizontalAdvance(whole) + 12 <= self._field_width() else number
            )

        def take(text: str, goes_on: bool) -> None:
            axis = self.session.machine.axes[self.session.selected]
            plain = text.strip().removesuffix("teeth").strip()
            edit = editing.stage_value(self.session.selected, self.position, key, plain)
            self.session.edit(edit, f"{name} of {axis.name}", goes_on=goes_on)

        place = f"travel[{self.position}].{key}"
        said = f"{name.capitalize()}, stage {self.position + 1}"
        field = ValueField(self.session, said, show, take, key=place)
        field.setAlignment(Qt.AlignmentFlag.AlignHCenter)
        return field

    def _field_width(self) -> float:
        return (self.width() - 4) / len(_NUMBERS[self._kind]) - 2

    def resizeEvent(self, _event: QResizeEvent) -> None:
        for field in self.fields:
            field.refresh()

    def refresh(self) -> None:
        """Show the stage as it is now."""
        axis = self.session.axis
        if axis is None or type(self.stage()) is not self._kind:
            return  # about to be replaced by a card of another kind
        for field in self.fields:
            field.refresh()
        self.setToolTip(stage_words(axis, self.position))
        linear = isinstance(self.stage(), Belt | Screw)
        last = len(axis.travel) - 1
        before_linear = self.position + 1 == last and isinstance(axis.travel[last], Belt | Screw)
        free = not self.session.running
        self.earlier.setVisible(not linear and self.position > 0)
        self.later.setVisible(not linear and self.position < last and not before_linear)
        self.remove.setVisible(not linear)
        for button in (self.earlier, self.later, self.remove):
            button.setEnabled(free)
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        axis, stage = self.session.axis, self.stage()
        if axis is None or stage is None:
            return
        painter = QPainter(self)
        position, share = self.place(axis)
        shafts = shaft_turns(axis, position)
        before, after = shafts[self.position], shafts[min(self.position + 1, len(shafts) - 1)]
        room = min(self.width() * 0.225, (self.height() * 0.40 - _ABOVE - 4) / 1.7)  # below the buttons
        end = 0.5 if isinstance(stage, Belt | Screw) else 1.0
        paint_stage(self.brush(painter, 0.0, end), stage, room, before, after, share)
        ratio = Fraction(1)
        for part in axis.travel[: self.position + 1]:
            ratio *= stage_ratio(part)
        if isinstance(stage, Belt | Screw):
            self.caption(painter, f"{figures.short(float(1 / stage_ratio(stage)))} mm a turn")
        else:
            self.caption(painter, f"1 : {figures.short(float(ratio))}")
            self.caption(
                painter, f"1 : {figures.short(float(stage_ratio(stage)))} here", row=1
            ) if self.position else None
