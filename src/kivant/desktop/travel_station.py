"""The Travel station: the chain of stages from rotor to tool, and what an angle or distance makes in steps."""

from __future__ import annotations

from fractions import Fraction

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from kivant.app import editing
from kivant.core.errors import KivantError
from kivant.core.machine import Axis, Belt, Screw
from kivant.core.travel import convert, parse_position, steps_per_rev, steps_per_unit
from kivant.desktop import figures
from kivant.desktop.scales import Scales
from kivant.desktop.session import Session
from kivant.desktop.stage_card import Card, MotorCard, StageCard, ToolCard
from kivant.desktop.theme import font
from kivant.desktop.value_field import ValueField

_FIRST = {"deg": Fraction(90), "mm": Fraction(25, 2)}


class TravelStation(QWidget):
    """Stages worked on where they are drawn, and a position turned into steps and back."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.positions: dict[str, Fraction] = {}
        self.cards: list[Card] = []
        self._shape: object = None
        self.heading = QLabel()
        self.heading.setFont(font("title"))
        self.heading.setTextFormat(Qt.TextFormat.PlainText)
        self.sentence = QLabel()
        self.stages = QHBoxLayout()
        self.stages.setSpacing(0)
        self.add_gear = self._plain(
            "+ gear", lambda: self._edit(editing.add_stage(session.selected, "gear"), "new gear")
        )
        self.add_ratio = self._plain(
            "+ ratio", lambda: self._edit(editing.add_stage(session.selected, "ratio"), "new ratio")
        )
        self.swap = self._plain("", lambda: self._edit(editing.swap_last_stage(session.selected), "other last stage"))
        self.position = ValueField(session, "Position", self._position_text, self._take_position, "large")
        self.steps = ValueField(session, "Steps", self._steps_text, self._take_steps, "large")
        self.found = QLabel()
        self.found.setFont(font("text"))
        self.found.setWordWrap(True)
        self.scales = Scales(session)
        self._lay_out()
        for signal in (session.machine_changed, session.selection_changed, session.run_changed, session.theme_changed):
            signal.connect(self.refresh)
        session.playhead_moved.connect(self._follow)
        self.refresh()

    def _plain(self, text: str, act: object) -> QPushButton:
        button = QPushButton(text)
        button.setProperty("kind", "plain")
        button.clicked.connect(act)
        return button

    def _lay_out(self) -> None:
        adding = QHBoxLayout()
        for button in (self.add_gear, self.add_ratio, self.swap):
            adding.addWidget(button)
        adding.addStretch(1)
        asked = QHBoxLayout()
        asked.setSpacing(14)
        for field, width in ((self.position, 260), (self.steps, 300)):
            field.setFixedWidth(width)
            field.setFixedHeight(46)
        equals = QLabel("=")
        equals.setFont(font("large"))
        asked.addWidget(self.position)
        asked.addWidget(equals)
        asked.addWidget(self.steps)
        asked.addWidget(self.found, 1)
        title = QLabel("Type an angle or distance in any unit, or a number of steps")
        title.setFont(font("heading"))
        column = QVBoxLayout(self)
        column.setContentsMargins(26, 14, 24, 10)
        column.setSpacing(6)
        column.addWidget(self.heading)
        column.addWidget(self.sentence)
        column.addSpacing(6)
        column.addLayout(self.stages, 3)
        column.addLayout(adding)
        column.addSpacing(10)
        column.addWidget(title)
        column.addLayout(asked)
        column.addWidget(self.scales, 2)

    def _edit(self, edit: editing.Edit, name: str) -> None:
        axis = self.session.axis
        try:
            self.session.edit(edit, f"{name} of {axis.name}" if axis else name)
        except KivantError as error:
            self.session.noticed.emit(str(error))

    def refresh(self) -> None:
        """Show the selected axis's chain as it is now."""
        axis = self.session.axis
        if axis is None:
            self._rebuild(None)
            self.sentence.setText("")
            return
        if not self.isVisible() and self.cards:
            return  # caught up with when it is shown
        name = axis.name if len(axis.name) <= 36 else f"{axis.name[:35]}…"
        self.heading.setText(f"{name}: from rotor to tool")
        ratio = steps_per_unit(axis)
        step = 1 / ratio
        exact = f", exactly {step.numerator}/{step.denominator}" if len(str(step)) < 24 else ""
        one, many = figures.short(float(step)), figures.short(float(ratio))
        self.sentence.setText(f"one step moves {one} {axis.unit}{exact}; {many} steps/{axis.unit}")
        shape = (axis.name, tuple(type(stage) for stage in axis.travel))
        if shape != self._shape:
            self._shape = shape
            self._rebuild(axis)
        for card in self.cards:
            card.refresh()
        linear = bool(axis.travel) and isinstance(axis.travel[-1], Belt | Screw)
        self.swap.setVisible(linear)
        self.swap.setText(
            "screw instead of belt" if linear and isinstance(axis.travel[-1], Belt) else "belt instead of screw"
        )
        for button in (self.add_gear, self.add_ratio, self.swap):
            button.setEnabled(not self.session.running and len(axis.travel) < 8)
        self._convert(axis)

    def _follow(self) -> None:
        if self.isVisible():
            for card in self.cards:
                card.follow()

    def showEvent(self, event: object) -> None:
        self.refresh()

    def _rebuild(self, axis: Axis | None) -> None:
        held = self.focusWidget()
        if held is not None and any(card.isAncestorOf(held) for card in self.cards):
            held.clearFocus()  # or it would wander over all the cards that go
        while (item := self.stages.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        self.cards = []
        if axis is None:
            return
        self.cards.append(MotorCard(self.session))
        for position in range(len(axis.travel)):
            card = StageCard(self.session, position)
            card.remove.clicked.connect(
                lambda _c=False, p=position: self._edit(editing.remove_stage(self.session.selected, p), "stage out")
            )
            card.earlier.clicked.connect(lambda _c=False, p=position: self._move(p, p - 1))
            card.later.clicked.connect(lambda _c=False, p=position: self._move(p, p + 1))
            self.cards.append(card)
        self.cards.append(ToolCard(self.session))
        for card in self.cards:
            self.stages.addWidget(card, 1)
            card.show()

    def _move(self, position: int, to: int) -> None:
        self._edit(editing.move_stage(self.session.selected, position, to), "order of stages")

    # A position in steps, and back

    def _wanted(self) -> Fraction:
        axis = self.session.axis
        return self.positions.get(axis.name, _FIRST[axis.unit]) if axis else Fraction(0)

    def _position_text(self) -> str:
        axis = self.session.axis
        return f"{figures.plain(float(self._wanted()))} {axis.unit}" if axis else ""

    def _steps_text(self) -> str:
        axis = self.session.axis
        return f"{figures.plain(float(self._wanted() * steps_per_unit(axis)))} steps" if axis else ""

    def _take_position(self, text: str, _goes_on: bool) -> None:
        axis = self.session.machine.axes[self.session.selected]
        self.positions[axis.name] = parse_position(axis, text)
        self._convert(axis)

    def _take_steps(self, text: str, goes_on: bool) -> None:
        bare = text.strip().removesuffix("steps").removesuffix("step").strip()
        self._take_position(f"{bare} steps", goes_on)

    def _convert(self, axis: Axis) -> None:
        for field in (self.position, self.steps):
            field.refresh()
        found = convert(axis, self._wanted())
        beyond = (found.error > 0) == (found.position >= 0)
        missed = f"{figures.short(abs(float(found.error)))} {axis.unit} {'too far' if beyond else 'short'}"
        side = missed if found.error else "exactly there"
        turns = float(found.steps_exact) / steps_per_rev(axis)
        reached = (
            f"nearest step {figures.grouped(found.steps)} reaches {figures.plain(float(found.actual))} {axis.unit}"
        )
        self.found.setText(f"{reached}, {side}; the rotor turns {figures.short(turns)} times")
        self.scales.show_position(found)
