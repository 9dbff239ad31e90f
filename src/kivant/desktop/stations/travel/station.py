"""The Travel station: the chain of stages from rotor to tool, and what an angle or distance makes in steps."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QMenu, QPushButton, QVBoxLayout

from kivant.core.machine import Axis, edits
from kivant.core.machine.drives import change_unit
from kivant.core.path import Path
from kivant.core.travel.conversion import steps_per_unit
from kivant.core.travel.sense import rotor_sense
from kivant.core.travel.stages import STAGES, stage_kind
from kivant.desktop.kit import figures
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.stations.travel.calibrate_face import CalibrateFace
from kivant.desktop.stations.travel.cards import Card, MotorCard, StageCard, ToolCard
from kivant.desktop.stations.travel.convert_face import ConvertFace
from kivant.desktop.stations.travel.divide_face import DivideFace
from kivant.desktop.stations.travel.sold_row import SoldRow
from kivant.desktop.stations.travel.stage_drag import StageDrag
from kivant.desktop.widgets.current_stack import CurrentStack
from kivant.desktop.widgets.face_strip import FaceStrip
from kivant.desktop.widgets.heading import Heading
from kivant.desktop.widgets.station_page import StationPage
from kivant.desktop.widgets.word_choice import WordChoice

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
        self.cards: list[Card] = []
        self._shape: object = None
        self.heading = Heading()
        self.sentence = QLabel()
        self.sentence.setTextFormat(Qt.TextFormat.PlainText)
        self.sold = SoldRow(session)
        self.drag = StageDrag(self, session, self._move)
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
        self.round = self._plain("±")
        self.round.setToolTip("Reverse the axis: the other direction is positive. Ctrl+Z undoes it.")
        self.round.setAccessibleName("Reverse the axis")
        self.round.clicked.connect(
            lambda: self._edit(edits.turn_axis_round(self.session.choice.index), "positive sense")
        )
        self.wrap = WordChoice(session, Path.of("limits", "wrap"), "way to a target", _WAYS)
        self.names = FaceStrip()
        self.names.chosen.connect(self.show_face)
        self.faces: dict[str, ConvertFace | DivideFace | CalibrateFace] = {
            "convert": ConvertFace(session),
            "divide": DivideFace(session),
            "calibrate": CalibrateFace(session),
        }
        self.face_key = "convert"
        self.stack = CurrentStack()
        for face in self.faces.values():
            self.stack.addWidget(face)
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
            if choice is self.positive:
                adding.addWidget(self.round)
        column = QVBoxLayout(self)
        column.setContentsMargins(26, 14, 24, 10)
        column.setSpacing(6)
        column.addWidget(self.heading)
        column.addWidget(self.sentence)
        column.addWidget(self.sold)
        column.addSpacing(4)
        column.addLayout(self.stages, 3)
        column.addLayout(adding)
        column.addSpacing(4)
        column.addWidget(self.names, 0, Qt.AlignmentFlag.AlignLeft)
        column.addWidget(self.stack, 2)

    def face(self, key: str) -> ConvertFace | DivideFace | CalibrateFace:
        """Return a face by its key."""
        return self.faces[key]

    def show_face(self, key: str) -> None:
        """Show a face: convert, divide or calibrate."""
        self.face_key = key
        self.refresh()

    def show_place(self, place: Path) -> None:
        """Show the face in which a place of the machine is seen."""
        self.show_face("calibrate" if place.below("axes", "*", "calibration") is not None else "convert")

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
        self._tell(axis)
        self.sold.follow(axis)
        shape = (axis.name, tuple(stage.stage for stage in axis.travel))
        if shape != self._shape:
            self._shape = shape
            self._rebuild(axis)
        for card in self.cards:
            card.refresh()
        self._refresh_words(axis)
        self.names.offer({key: key.capitalize() for key in self.faces}, self.face_key)
        self.stack.setCurrentWidget(self.faces[self.face_key])
        self.faces[self.face_key].follow(axis)

    def _tell(self, axis: Axis) -> None:
        self.heading.tell(axis.name, "from rotor to tool")
        ratio = steps_per_unit(axis)
        step = 1 / ratio
        exact = f", exactly {step.numerator}/{step.denominator}" if len(str(step)) < 24 else ""
        one, many = figures.short(float(step)), figures.short(float(ratio))
        way = "clockwise" if rotor_sense(axis) > 0 else "counter-clockwise"
        self.sentence.setText(
            f"one step moves {one} {axis.unit}{exact}; {many} steps/{axis.unit}; forward turns the rotor {way}"
        )

    def _refresh_words(self, axis: Axis) -> None:
        self.unit.refresh()
        self.positive.refresh()
        self.wrap.refresh()
        for widget in (self.wrap, self._labels["targets go"]):
            widget.setVisible(axis.unit == "deg")
        slides = bool(axis.travel) and stage_kind(axis.travel[-1]).linear
        self.swap.setVisible(slides)
        if slides:
            self.swap.setText(f"instead of the {stage_kind(axis.travel[-1]).name}")
        self.round.setEnabled(not self.session.running.active)
        for button in (*self.adding.values(), self.swap):
            button.setEnabled(not self.session.running.active and len(axis.travel) < _MOST_STAGES)

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
        self.drag.watch([card for card in stages if not STAGES[card.kind].linear])

    def _stage_card(self, place: int, kind: str) -> StageCard:
        card, choice, name = StageCard(self.session, place, kind), self.session.choice, STAGES[kind].name
        # Axes change their order while a card is there: which one it is of is asked when it is pressed.
        for button, edit, words in (
            (card.remove, edits.remove_stage, f"removed {name}"),
            (card.reverse, edits.turn_stage_round, f"sense of the {name}"),
            (card.other, edits.say_stage_otherwise, f"figures of the {name}"),
        ):
            button.clicked.connect(lambda _on=False, e=edit, w=words: self._edit(e(choice.index, place), w))
        card.earlier.clicked.connect(lambda: self._move(place, place - 1))
        card.later.clicked.connect(lambda: self._move(place, place + 1))
        return card

    def _move(self, place: int, to: int) -> None:
        self._edit(edits.move_stage(self.session.choice.index, place, to), "order of stages")
