"""The Phases station: rotor and stator, the sequence or the pulses, and the lines around the playhead."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from kivant.core.machine import Axis
from kivant.desktop.state.session import Session
from kivant.desktop.stations.phases.alternative import Alternative, Choice
from kivant.desktop.stations.phases.faces import FACES
from kivant.desktop.stations.phases.plugs import Plugs
from kivant.desktop.stations.phases.pulse_timing import PulseTimes
from kivant.desktop.stations.phases.rotor_view import RotorView
from kivant.desktop.stations.phases.sequence_ring import SequenceRing
from kivant.desktop.widgets.heading import Heading
from kivant.desktop.widgets.line_strip import LineStrip
from kivant.desktop.widgets.station_page import StationPage


class PhasesStation(StationPage):
    """How the chosen axis's coils are switched."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.heading = Heading()
        self.sentence = QLabel()
        self.sentence.setTextFormat(Qt.TextFormat.PlainText)
        self.rotor = RotorView(session)
        self.ring = SequenceRing(session)
        self.plugs = Plugs(session)
        self.pulses = PulseTimes(session)
        self.strip = LineStrip(session)
        self.strip.setMinimumHeight(150)
        self.choices: list[Alternative] = []
        self._side = QVBoxLayout()
        self._side.setSpacing(7)
        self._lay_out()
        for signal in (session.playhead_moved, session.plan_changed):
            signal.connect(self._tell)

    def _lay_out(self) -> None:
        side = QWidget()
        side.setFixedWidth(272)
        side.setLayout(self._side)
        self._side.setContentsMargins(0, 0, 0, 0)
        body = QHBoxLayout()
        body.setSpacing(18)
        body.addWidget(self.rotor, 10)
        middle = QVBoxLayout()
        middle.setSpacing(2)
        middle.addWidget(self.ring, 1)
        middle.addWidget(self.plugs)
        body.addLayout(middle, 11)
        body.addWidget(self.pulses, 9)
        body.addWidget(side)
        column = QVBoxLayout(self)
        column.setContentsMargins(26, 14, 24, 10)
        column.setSpacing(4)
        column.addWidget(self.heading)
        column.addWidget(self.sentence)
        column.addLayout(body, 3)
        column.addSpacing(6)
        column.addWidget(self.strip, 1)

    def _tell(self) -> None:
        if self.isVisible():
            self.sentence.setText(self.rotor.words())

    def follow(self, axis: Axis | None) -> None:
        """Show the chosen axis as it is now."""
        if axis is None:
            return
        face = FACES[axis.driver.kind]
        self.heading.tell(axis.name, face.words)
        self.sentence.setText(self.rotor.words())
        for part in (self.ring, self.plugs):
            part.setVisible(face.middle == "ring")
        self.plugs.refresh()
        self.pulses.setVisible(face.middle == "pulses")
        self.pulses.refresh()
        wanted = face.choices(axis, self.session.choice.index)
        if [choice.looks for choice in wanted] != [button.choice.looks for button in self.choices]:
            self._rebuild(wanted)
        for button, choice in zip(self.choices, wanted, strict=True):
            button.choice = choice
            button.setChecked(choice.chosen)
            button.setEnabled(not self.session.running.active)
            button.update()

    def _rebuild(self, wanted: list[Choice]) -> None:
        for button in self.choices:
            button.hide()
            button.deleteLater()
        while self._side.takeAt(0) is not None:
            pass
        self.choices = []
        for choice in wanted:
            button = Alternative(self.session, choice)
            button.clicked.connect(lambda _checked=False, b=button: self._choose(b.choice))
            self._side.addWidget(button)
            self.choices.append(button)
        self._side.addStretch(1)

    def _choose(self, choice: Choice) -> None:
        axis = self.session.choice.axis
        if axis is not None:
            self.session.try_edit(choice.edit, f"{choice.name} for {axis.name}")
        self.refresh()
