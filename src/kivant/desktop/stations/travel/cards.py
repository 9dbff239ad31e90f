"""Cards of the Travel station: motor, stages and tool, each drawn as it moves, with its numbers to type in place."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetrics, QPainter, QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from kivant.core.machine import Axis, Stage
from kivant.core.machine.edits import FREE
from kivant.core.path import Path
from kivant.core.travel.conversion import steps_per_rev, steps_per_unit
from kivant.core.travel.shafts import ratio_so_far, resolution_so_far, shaft_turns
from kivant.core.travel.stages import STAGES, stage_kind, stage_ratio
from kivant.desktop.kit import figures
from kivant.desktop.kit.dial import ruler_share
from kivant.desktop.kit.painted import painted
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.stations.travel.brush import Brush
from kivant.desktop.stations.travel.end_pictures import paint_motor, paint_tool
from kivant.desktop.stations.travel.stage_pictures import PICTURES
from kivant.desktop.widgets.axis_field import AxisField
from kivant.desktop.widgets.offers import offer

_ABOVE, _BELOW = 28, 66  # pixels of a card for the buttons over its picture, and for figures and words under it
_UNITS = {"teeth": " teeth", "length": " mm", "ratio": ""}


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

    def position(self) -> float:
        """Return the position that is shown, in axis units."""
        return self.session.instant.position_of(self.session.choice.index)

    def brush(self, painter: QPainter, begin: float, end: float) -> Brush:
        """Return what to draw the part with, after drawing the shaft it sits on from `begin` to `end`, in widths."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, middle = self.session.theme, QPointF(self.width() / 2, self.height() * 0.40)
        painter.setPen(theme.pen(theme.color("ink"), 2.4))
        painter.drawLine(QPointF(begin * self.width(), middle.y()), QPointF(end * self.width(), middle.y()))
        return Brush(painter, theme, theme.axis(self.session.choice.index), middle)

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
        path = Path.of("motor", "full_steps_per_rev")
        self.field = AxisField(session, path, "full steps per revolution", role="figure")
        self.field.setAlignment(Qt.AlignmentFlag.AlignHCenter)
        self.field.setFixedWidth(70)
        column = QVBoxLayout(self)
        column.setContentsMargins(2, 0, 2, 40)
        column.addStretch(1)
        column.addWidget(self.field, 0, Qt.AlignmentFlag.AlignHCenter)

    def refresh(self) -> None:
        """Show the motor as it is now."""
        self.field.refresh()
        if (axis := self.session.choice.axis) is not None:
            full = axis.motor.full_steps_per_rev
            self.setToolTip(f"Motor: {full} full steps per revolution, {steps_per_rev(axis)} steps as it is driven.")
        self.update()

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        axis = self.session.choice.axis
        if axis is None:
            return
        half = max(min(self.width() * 0.42, self.height() * 0.24, 80.0, self.height() * 0.6 - 70), 12.0)
        paint_motor(self.brush(painter, 0.5, 1.0), half, shaft_turns(axis, self.position())[0])
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

    def _field(self, key: str, name: str) -> AxisField:
        field = AxisField(self.session, Path.of("limits", key), name, lambda axis: f" {axis.unit}")
        field.setToolTip(f"{field.toolTip()}\nEmpty, or “{FREE}”, for no limit.")
        return field

    def refresh(self) -> None:
        """Show the axis as it is now."""
        for field in self.fields:
            field.refresh()
        self.update()

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        axis = self.session.choice.axis
        if axis is None:
            return
        position = self.position()
        brush = self.brush(painter, 0.0, 0.5 if axis.unit == "deg" else 0.0)
        above = self.fields[0].geometry().top() - brush.middle.y() - 10  # in a low window the fields come close
        radius = max(min(self.width() * 0.36, self.height() * 0.26, above), 8.0)
        paint_tool(brush, axis, position, ruler_share(axis, position), radius, self.width() * 0.42)


class StageField(AxisField):
    """A number of a stage; where many stages stand side by side, its unit gives way."""

    def __init__(self, card: StageCard, key: str, name: str, reads: str) -> None:
        self._card = card
        path = Path(("travel", card.place, key))
        super().__init__(card.session, path, f"{name}, stage {card.place + 1}", lambda _axis: _UNITS[reads])
        self.setAlignment(Qt.AlignmentFlag.AlignHCenter)
        if key in STAGES[card.kind].common:
            offer(self, STAGES[card.kind].common[key], _UNITS[reads])

    def _shown(self) -> str:
        value, whole = self.value(), super()._shown()
        if value is None:
            return ""
        fits = QFontMetrics(font("strong")).horizontalAdvance(whole) + 12 <= self._card.field_width()
        return whole if fits else str(value)


class StageCard(Card):
    """One stage, by its place in the chain."""

    def __init__(self, session: Session, place: int, kind: str) -> None:
        super().__init__(session)
        self.place, self.kind = place, kind
        self.fields: list[StageField] = []
        for key, name, reads in STAGES[kind].fields:
            self.fields.append(StageField(self, key, name, reads))
        self.earlier = self._small("‹", "Move this stage towards the rotor")
        self.later = self._small("›", "Move this stage towards the tool")
        self.remove = self._small("×", "Remove this stage")
        self.reverse = self._small("±", "Reverse it: whether its output turns against its input")
        self.reverse.setCheckable(True)
        self.other = self._small(
            "/", "Give it in another way: by its lead, or by the pitch of its thread and its starts"
        )
        numbers = QHBoxLayout()
        numbers.setSpacing(2)
        for field in self.fields:
            numbers.addWidget(field)
        tools = QHBoxLayout()
        tools.setSpacing(0)
        tools.addStretch(1)
        for button in (self.earlier, self.remove, self.reverse, self.other, self.later):
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
        button.setFixedSize(26, 28)
        button.setToolTip(tip)
        button.setAccessibleName(tip)
        return button

    def field_width(self) -> float:
        """Return how much room a field has."""
        shown = sum(not field.isHidden() for field in self.fields)
        return (self.width() - 4) / max(shown, 1) - 2

    def stage(self) -> Stage | None:
        """Return the stage as it is now; None where the chosen axis has none there, or one of another kind."""
        axis = self.session.choice.axis
        found = axis.travel[self.place] if axis and self.place < len(axis.travel) else None
        return found if found is not None and found.stage == self.kind else None

    def resizeEvent(self, _event: QResizeEvent) -> None:
        for field in self.fields:
            field.refresh()

    def refresh(self) -> None:
        """Show the stage as it is now."""
        axis, stage = self.session.choice.axis, self.stage()
        if axis is None or stage is None:
            return  # about to be replaced by a card of another kind
        keys = stage_kind(stage).in_use(stage)
        for field in self.fields:
            field.setVisible(keys is None or field.path.key in keys)
            field.refresh()
        self.reverse.setChecked(bool(stage.reverses))
        self.other.setVisible(stage_kind(stage).otherwise(stage) is not None)
        self.setToolTip(stage_words(axis, self.place))
        last = len(axis.travel) - 1
        fixed = stage_kind(stage).linear
        before_linear = self.place + 1 == last and stage_kind(axis.travel[last]).linear
        self.earlier.setVisible(not fixed and self.place > 0)
        self.later.setVisible(not fixed and self.place < last and not before_linear)
        self.remove.setVisible(not fixed)
        for button in (self.earlier, self.later, self.remove, self.reverse, self.other):
            button.setEnabled(not self.session.running.active)
        self.update()

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        axis, stage = self.session.choice.axis, self.stage()
        if axis is None or stage is None:
            return
        position, linear = self.position(), stage_kind(stage).linear
        shafts = shaft_turns(axis, position)
        before, after = shafts[self.place], shafts[min(self.place + 1, len(shafts) - 1)]
        room = min(self.width() * 0.225, (self.height() * 0.40 - _ABOVE - 4) / 1.7)  # below the buttons
        brush = self.brush(painter, 0.0, 0.5 if linear else 1.0)
        PICTURES[stage.stage].large(brush, stage, room, before, after, ruler_share(axis, position))
        own = float(stage_ratio(stage))
        if linear:
            self.caption(painter, f"{figures.short(1 / own)} mm a turn")
            return
        ratio, step = ratio_so_far(axis, self.place + 1), resolution_so_far(axis, self.place + 1)
        self.caption(painter, f"1 : {figures.short(float(ratio))}, {figures.rough3(float(step))} deg a step")
        if self.place:
            self.caption(painter, f"1 : {figures.short(own)} here", row=1)


def stage_words(axis: Axis, place: int) -> str:
    """Say what a stage is and does."""
    stage = axis.travel[place]
    kind = stage_kind(stage)
    said = f"{kind.name.capitalize()}: {kind.words(stage)}"
    sense = " It reverses the direction." if stage.reverses else ""
    if kind.linear:
        lead, step = figures.short(float(1 / stage_ratio(stage))), figures.short(float(1 / steps_per_unit(axis)))
        return f"{said}.{sense} One turn moves the tool {lead} mm, one step {step} mm."
    slower = figures.short(float(ratio_so_far(axis, place + 1)))
    step = figures.short(float(resolution_so_far(axis, place + 1)))
    way = "clockwise" if shaft_turns(axis, 1.0)[place + 1] > 0 else "counter-clockwise"
    return (
        f"{said}.{sense} The shaft behind it turns once for {slower} turns of the rotor, {step} deg a step; forward it "
        f"turns {way}."
    )
