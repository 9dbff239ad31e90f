"""The Travel station: the chain of stages from rotor to tool, and what an angle or distance makes in steps."""

from __future__ import annotations

from fractions import Fraction

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QMenu, QPushButton, QVBoxLayout

from kivant.core.machine import Axis, edits
from kivant.core.machine.drives import change_unit
from kivant.core.path import Path
from kivant.core.quantity import parse_position
from kivant.core.travel.conversion import convert, steps_per_rev, steps_per_unit
from kivant.core.travel.sense import rotor_sense
from kivant.core.travel.stages import STAGES, stage_kind
from kivant.desktop.kit import figures
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.stations.travel.cards import Card, MotorCard, StageCard, ToolCard
from kivant.desktop.stations.travel.scales import Scales
from kivant.desktop.widgets.heading import Heading
from kivant.desktop.widgets.station_page import StationPage
from kivant.desktop.widgets.value_field import ValueField
from kivant.desktop.widgets.word_choice import WordChoice

_FIRST = {"deg": Fraction(90), "mm": Fraction(25, 2)}
_MOST_STAGES = 8
_UNITS = {"deg": "turns, in deg", "mm": "slides, in mm"}
_WAYS = {
    None: "as written",
    "shortest": "the shortest way",
    "positive": "always forward",
    "negative": "always backward",
}
_SENSES = {"cw": "clockwise", "ccw": "counter-clockwise"}


class TravelStation(StationPage):
    """Stages worked on where they are drawn, and a position turned into steps and back."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        # A position belongs to an axis of the document that is open.
        self._positions: tuple[object, dict[str, Fraction]] = (None, {})
        self.cards: list[Card] = []
        self._shape: object = None
        self.heading = Heading()
        self.sentence = QLabel()
        self.sentence.setTextFormat(Qt.TextFormat.PlainText)
        self.stages = QHBoxLayout()
        self.stages.setSpacing(0)
        turning = [kind for kind, record in STAGES.items() if not record.linear]
        self.adding = {kind: self._plain(f"+ {STAGES[kind].name}") for kind in turning}
        for kind, button in self.adding.items():
            button.clicked.connect(lambda _checked=False, k=kind: self._add(k))
        self.swap = self._plain("")
        self.swap.setMenu(QMenu(self))
        self.swap.menu().aboutToShow.connect(self._fill_ends)
        self.unit = WordChoice(session, Path.of("unit"), "unit", _UNITS, change_unit)
        self.positive = WordChoice(session, Path.of("positive"), "positive sense", _SENSES)
        self.wrap = WordChoice(session, Path.of("limits", "wrap"), "way to a target", _WAYS)
        self.position = ValueField(session, "Position", self._position_text, self._take_position, "large")
        self.steps = ValueField(session, "Steps", self._steps_text, self._take_steps, "large")
        self.found = QLabel()
        self.found.setFont(font("text"))
        self.found.setWordWrap(True)
        self.scales = Scales(session)
        self._lay_out()
        session.playhead_moved.connect(self._turn)

    def _plain(self, text: str) -> QPushButton:
        button = QPushButton(text)
        button.setProperty("kind", "plain")
        return button

    def _lay_out(self) -> None:
        adding = QHBoxLayout()
        for button in (*self.adding.values(), self.swap):
            adding.addWidget(button)
        adding.addStretch(1)
        self._labels: dict[str, QLabel] = {}
        choices = (("the tool", self.unit), ("positive is", self.positive), ("targets go", self.wrap))
        for text, choice in choices:
            label = self._labels[text] = QLabel(text)
            label.setFont(font("small"))
            adding.addWidget(label)
            adding.addWidget(choice)
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

    # The chain

    def _edit(self, edit: edits.Edit, name: str) -> None:
        axis = self.session.choice.axis
        self.session.try_edit(edit, f"{name} of {axis.name}" if axis else name)

    def _add(self, kind: str) -> None:
        self._edit(edits.add_stage(self.session.choice.index, kind), f"new {STAGES[kind].name}")

    def _fill_ends(self) -> None:
        """Offer every other stage that turns revolutions into distance."""
        axis, menu = self.session.choice.axis, self.swap.menu()
        menu.clear()
        now = axis.travel[-1].stage if axis and axis.travel else ""
        for kind, record in STAGES.items():
            if record.linear and kind != now:
                action = menu.addAction(record.name)
                action.triggered.connect(lambda _checked=False, k=kind: self._swap(k))

    def _swap(self, kind: str) -> None:
        self._edit(edits.replace_last_stage(self.session.choice.index, kind), "last stage")

    def follow(self, axis: Axis | None) -> None:
        """Show the chosen axis's chain as it is now."""
        if axis is None:
            self._rebuild(None)
            self.sentence.setText("")
            return
        self.heading.tell(axis.name, "from rotor to tool")
        ratio = steps_per_unit(axis)
        step = 1 / ratio
        exact = f", exactly {step.numerator}/{step.denominator}" if len(str(step)) < 24 else ""
        one, many = figures.short(float(step)), figures.short(float(ratio))
        way = "clockwise" if rotor_sense(axis) > 0 else "counter-clockwise"
        self.sentence.setText(
            f"one step moves {one} {axis.unit}{exact}; {many} steps/{axis.unit}; forward turns the rotor {way}"
        )
        shape = (axis.name, tuple(stage.stage for stage in axis.travel))
        if shape != self._shape:
            self._shape = shape
            self._rebuild(axis)
        for card in self.cards:
            card.refresh()
        self.unit.refresh()
        self.positive.refresh()
        self.wrap.refresh()
        for widget in (self.wrap, self._labels["targets go"]):
            widget.setVisible(axis.unit == "deg")
        slides = bool(axis.travel) and stage_kind(axis.travel[-1]).linear
        self.swap.setVisible(slides)
        if slides:
            self.swap.setText(f"instead of the {stage_kind(axis.travel[-1]).name}")
        for button in (*self.adding.values(), self.swap):
            button.setEnabled(not self.session.running.active and len(axis.travel) < _MOST_STAGES)
        self._convert(axis)

    def _turn(self) -> None:
        if self.isVisible():
            for card in self.cards:
                card.follow()

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
        stages = [self._stage_card(place, stage.stage) for place, stage in enumerate(axis.travel)]
        self.cards = [MotorCard(self.session), *stages, ToolCard(self.session)]
        for card in self.cards:
            self.stages.addWidget(card, 1)
            card.show()

    def _stage_card(self, place: int, kind: str) -> StageCard:
        card = StageCard(self.session, place, kind)
        card.remove.clicked.connect(
            lambda: self._edit(edits.remove_stage(self.session.choice.index, place), f"removed {STAGES[kind].name}")
        )
        index = self.session.choice.index
        name = STAGES[kind].name
        card.reverse.clicked.connect(lambda: self._edit(edits.turn_stage_round(index, place), f"sense of the {name}"))
        card.other.clicked.connect(
            lambda: self._edit(edits.say_stage_otherwise(index, place), f"figures of the {name}")
        )
        card.earlier.clicked.connect(lambda: self._move(place, place - 1))
        card.later.clicked.connect(lambda: self._move(place, place + 1))
        return card

    def _move(self, place: int, to: int) -> None:
        self._edit(edits.move_stage(self.session.choice.index, place, to), "order of stages")

    # A position in steps, and back

    @property
    def _asked(self) -> dict[str, Fraction]:
        """The positions that were typed, by axis, for the document that is open."""
        document = self.session.document
        if self._positions[0] is not document:
            self._positions = (document, {})
        return self._positions[1]

    def _wanted(self) -> Fraction:
        axis = self.session.choice.axis
        return self._asked.get(axis.name, _FIRST[axis.unit]) if axis else Fraction(0)

    def _position_text(self) -> str:
        axis = self.session.choice.axis
        return f"{figures.plain(float(self._wanted()))} {axis.unit}" if axis else ""

    def _steps_text(self) -> str:
        axis = self.session.choice.axis
        return f"{figures.plain(float(self._wanted() * steps_per_unit(axis)))} steps" if axis else ""

    def _take_position(self, text: str, _merge: bool) -> None:
        axis = self.session.choice.axis
        if axis is not None:
            self._asked[axis.name] = parse_position(axis, text)
            self._convert(axis)

    def _take_steps(self, text: str, merge: bool) -> None:
        bare = text.strip().removesuffix("steps").removesuffix("step").strip()
        self._take_position(f"{bare} steps", merge)

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
