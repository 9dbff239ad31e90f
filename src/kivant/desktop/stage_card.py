"""Cards of the Travel station: motor, stages and tool, each drawn, with its numbers to type in place."""

from __future__ import annotations

import math
from fractions import Fraction

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from kivant.app import editing
from kivant.core.machine import Belt, Gear, Ratio, Screw, Stage
from kivant.core.travel import stage_ratio, steps_per_rev
from kivant.desktop import figures
from kivant.desktop.session import Session
from kivant.desktop.theme import font
from kivant.desktop.value_field import ValueField

_NUMBERS: dict[type, tuple[tuple[str, str], ...]] = {
    Gear: (("driving", "driving teeth"), ("driven", "driven teeth")),
    Ratio: (("ratio", "ratio"),),
    Belt: (("pitch", "belt pitch"), ("teeth", "pulley teeth")),
    Screw: (("lead", "screw lead"),),
}
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

    def shaft(self, painter: QPainter, begin: float, end: float) -> None:
        """Draw the shaft on which the parts sit."""
        painter.setPen(self.session.theme.pen(self.session.theme.color("ink"), 2.4))
        y = self.height() * 0.40
        painter.drawLine(QPointF(begin, y), QPointF(end, y))

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
        column.addStretch(30)
        column.addWidget(self.field, 0, Qt.AlignmentFlag.AlignHCenter)
        column.addStretch(60)

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
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        axis = self.session.axis
        if axis is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, y = self.session.theme, self.height() * 0.40
        half = min(self.width() * 0.42, 52.0)
        middle = self.width() / 2
        self.shaft(painter, middle + half, self.width())
        painter.setPen(theme.pen(theme.color("ink"), 1.6))
        painter.setBrush(theme.color("sheet"))
        painter.drawRoundedRect(QRectF(middle - half, y - half * 0.8, 2 * half, half * 1.6), 6, 6)
        self.caption(painter, f"{steps_per_rev(axis)} steps/rev")
        self.caption(painter, "full steps", row=1)


class ToolCard(Card):
    """What moves in the end: a turning or a sliding tool, and between which positions."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.fields = [self._field("min", "least position"), self._field("max", "greatest position")]
        numbers = QHBoxLayout()
        numbers.setSpacing(6)
        for field in self.fields:
            numbers.addWidget(field)
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 0, 2, 40)
        column.addStretch(1)
        column.addLayout(numbers)

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
        field.setAlignment(Qt.AlignmentFlag.AlignHCenter)
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
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, hue = self.session.theme, self.session.theme.axis(self.session.selected)
        middle = QPointF(self.width() / 2, self.height() * 0.40)
        self.shaft(painter, 0, middle.x())
        painter.setPen(theme.pen(hue, 2))
        painter.setBrush(theme.color("sheet"))
        if axis.unit == "deg":
            radius = min(self.width() * 0.36, self.height() * 0.26)
            painter.drawEllipse(middle, radius, radius)
            painter.setBrush(theme.tint(hue, 0.12))
            painter.drawEllipse(middle, radius, radius)
            painter.setPen(theme.pen(hue, 3))
            painter.drawLine(middle, middle + QPointF(radius * 0.5, -radius * 0.7))
        else:
            painter.drawRect(QRectF(middle.x() - 24, middle.y() - 18, 48, 36))
            painter.drawLine(middle + QPointF(-34, 28), middle + QPointF(34, 28))
            for way in (-1, 1):
                painter.drawLine(middle + QPointF(way * 34, 28), middle + QPointF(way * 27, 23))
        self.caption(painter, "the tool stays", row=1)
        self.caption(painter, "between these")


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
            return f"{getattr(self.stage(), key, '')}{_UNITS.get(key, '')}"

        def take(text: str, goes_on: bool) -> None:
            axis = self.session.machine.axes[self.session.selected]
            plain = text.strip().removesuffix("teeth").strip()
            edit = editing.stage_value(self.session.selected, self.position, key, plain)
            self.session.edit(edit, f"{name} of {axis.name}", goes_on=goes_on)

        place = f"travel[{self.position}].{key}"
        field = ValueField(self.session, name.capitalize(), show, take, key=place)
        field.setAlignment(Qt.AlignmentFlag.AlignHCenter)
        return field

    def refresh(self) -> None:
        """Show the stage as it is now."""
        axis = self.session.axis
        if axis is None or type(self.stage()) is not self._kind:
            return  # about to be replaced by a card of another kind
        for field in self.fields:
            field.refresh()
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
        axis, stage, theme = self.session.axis, self.stage(), self.session.theme
        if axis is None or stage is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self.shaft(painter, 0, self.width())
        painter.setPen(theme.pen(theme.color("ink"), 1.4))
        painter.setBrush(theme.color("sheet"))
        middle = QPointF(self.width() / 2, self.height() * 0.40)
        room = min(self.width() * 0.25, self.height() * 0.20)
        if isinstance(stage, Gear):
            _paint_gears(painter, middle, room, stage)
        elif isinstance(stage, Ratio):
            painter.drawRoundedRect(QRectF(middle.x() - room, middle.y() - room * 0.8, 2 * room, 1.6 * room), 8, 8)
            painter.setFont(font("figure"))
            painter.drawText(
                QRectF(middle.x() - room, middle.y() - 12, 2 * room, 24), Qt.AlignmentFlag.AlignCenter, "1 : n"
            )
        elif isinstance(stage, Belt):
            painter.drawEllipse(middle + QPointF(-room * 0.9, 0), room * 0.55, room * 0.55)
            painter.drawEllipse(middle + QPointF(room * 0.9, 0), room * 0.55, room * 0.55)
            for side in (-1, 1):
                y = side * room * 0.55
                painter.drawLine(middle + QPointF(-room * 0.9, y), middle + QPointF(room * 0.9, y))
        else:
            _paint_screw(painter, middle, room)
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


def _paint_gears(painter: QPainter, middle: QPointF, room: float, stage: Gear) -> None:
    """Two toothed wheels in the proportion of their teeth, as far as that can be drawn."""
    share = min(max(stage.driving / (stage.driving + stage.driven), 0.2), 0.8)
    left, right = 2 * room * share, 2 * room * (1 - share)
    contact = middle.x() - 2 * room + 2 * left
    for center, radius, teeth in (
        (QPointF(contact - left, middle.y()), left, stage.driving),
        (QPointF(contact + right, middle.y()), right, stage.driven),
    ):
        shown = max(min(teeth, int(radius * 1.6)), 6)
        path = QPainterPath()
        for k in range(4 * shown):
            angle = 2 * math.pi * k / (4 * shown)
            reach = radius * (1.0 if k % 4 in (0, 1) else 1.0 - 2.2 / max(shown, 8))
            point = center + QPointF(math.cos(angle), math.sin(angle)) * reach
            if k:
                path.lineTo(point)
            else:
                path.moveTo(point)
        path.closeSubpath()
        painter.drawPath(path)
        painter.drawEllipse(center, 3, 3)


def _paint_screw(painter: QPainter, middle: QPointF, room: float) -> None:
    box = QRectF(middle.x() - 1.6 * room, middle.y() - room * 0.3, 3.2 * room, room * 0.6)
    painter.drawRect(box)
    for k in range(1, 10):
        x = box.left() + box.width() * k / 10
        painter.drawLine(QPointF(x - 4, box.bottom()), QPointF(x + 4, box.top()))
    nut = QRectF(middle.x() - room * 0.45, middle.y() - room * 0.7, room * 0.9, room * 1.4)
    painter.drawRoundedRect(nut, 4, 4)
