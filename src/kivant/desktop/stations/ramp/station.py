"""The Ramp station: how one axis gets up to speed and down again, and whether its motor follows."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtGui import QHideEvent, QKeySequence, QShortcut
from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from kivant.core.errors import KivantError
from kivant.core.machine import Axis
from kivant.core.machine.edits import set_value
from kivant.core.motion.trial import TrialMove
from kivant.core.path import axis_path
from kivant.desktop.kit import figures
from kivant.desktop.state.session import Session
from kivant.desktop.stations.ramp.candidate_cards import CandidateCards
from kivant.desktop.stations.ramp.chart import RampChart
from kivant.desktop.stations.ramp.fastest_row import FastestRow
from kivant.desktop.stations.ramp.side import RampSide
from kivant.desktop.widgets.current_stack import CurrentStack
from kivant.desktop.widgets.face_strip import FaceStrip
from kivant.desktop.widgets.heading import Heading
from kivant.desktop.widgets.station_page import StationPage
from kivant.desktop.widgets.value_field import ValueField

if TYPE_CHECKING:
    from kivant.desktop.stations.ramp.stall_face import StallFace

_FACES = {"move": "Move", "stall": "Stall map"}


class RampStation(StationPage):
    """The speed curve with its handles, the same move with other shapes, and the limits beside."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.chart = RampChart(session, self._drag)
        self.heading = Heading()
        self.distance = ValueField(session, "Distance of the move", self._distance_text, self._take_distance)
        self.distance.setFixedWidth(150)
        self.distance.setToolTip("A distance, or a change of speed under way: 20 to 60 mm/s.")
        self.sentence = QLabel()
        self.sentence.setTextFormat(Qt.TextFormat.PlainText)
        self.cards = CandidateCards(session)
        self.fastest = FastestRow(session)
        self.side = RampSide(session)
        self.fields = self.side.fields
        self.stall: StallFace | None = None
        self.names = FaceStrip()
        self.names.chosen.connect(self.show_face)
        self.face_key = "move"
        self.stack = CurrentStack()
        self._lay_out()
        for way, key in ((-1, "Ctrl+PgUp"), (1, "Ctrl+PgDown")):
            shortcut = QShortcut(QKeySequence(key), self)
            shortcut.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
            shortcut.activated.connect(lambda w=way: self.names.next(self.face_key, w))
        self.names.offer(_FACES, self.face_key)
        session.trial_changed.connect(self._show_trial)
        session.bench.tries.changed.connect(self._show_tries)

    def _lay_out(self) -> None:
        self.lead = QLabel("a move of")
        row = QHBoxLayout()
        row.setSpacing(6)
        for widget in (self.lead, self.distance, self.sentence):
            row.addWidget(widget)
        row.addStretch(1)
        row.addWidget(self.names)
        move = QWidget()
        left = QVBoxLayout(move)
        left.setContentsMargins(0, 0, 0, 0)
        left.setSpacing(6)
        left.addWidget(self.chart, 1)
        left.addWidget(self.cards)
        left.addWidget(self.fastest)
        body = QHBoxLayout()
        body.setSpacing(22)
        self.stack.addWidget(move)
        body.addWidget(self.stack, 1)
        body.addWidget(self.side)
        column = QVBoxLayout(self)
        column.setContentsMargins(26, 14, 24, 8)
        column.setSpacing(4)
        column.addWidget(self.heading)
        column.addLayout(row)
        column.addLayout(body, 1)

    def show_face(self, key: str) -> None:
        """Show the move or the stall map; that is made, and simulated, when it is first looked at."""
        if key == "stall" and self.stall is None:
            from kivant.desktop.stations.ramp.stall_face import StallFace

            self.stall = StallFace(self.session)
            self.stack.addWidget(self.stall)
        self.face_key = key
        self.names.offer(_FACES, key)
        self.stack.setCurrentIndex(list(_FACES).index(key))
        self.refresh()

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self.session.bench.tries.rest()

    def _distance_text(self) -> str:
        axis = self.session.choice.axis
        if axis is None:
            return ""
        change = self.session.trials.change(axis)
        if change is not None:
            return f"{figures.plain(change[0])} to {figures.plain(change[1])} {axis.unit}/s"
        return f"{figures.plain(float(self.session.trials.distance(axis)))} {axis.unit}"

    def _take_distance(self, text: str, _merge: bool) -> None:
        axis = self.session.choice.axis
        if axis is not None:
            self.session.trials.set_distance(axis, text)
            self._wish()
            self._show_tries()

    def _wish(self) -> None:
        axis, machine = self.session.choice.axis, self.session.document.machine
        if axis is not None:
            index = self.session.choice.index
            self.session.trials.wish(machine, index)
            change = self.session.trials.change(axis)
            self.lead.setText("a move of" if change is None else "a change from")
            if change is None:
                self.session.bench.tries.wish(machine, index, self.session.trials.distance(axis))
            else:
                self.session.bench.tries.rest(forget=True)

    def _drag(self, key: str, value: float, merge: bool) -> None:
        axis = self.session.choice.axis
        if axis is None:
            return
        edit = set_value(axis_path(self.session.choice.index, "limits", key), value)
        try:
            self.session.edit(edit, f"{key.replace('_', ' ')} of {axis.name}", merge=merge)
        except KivantError:
            return  # dragged past what a machine can have: it stays at the last value that can be

    def follow(self, axis: Axis | None) -> None:
        """Show the chosen axis as it is now; its trial move and candidates come when they are made."""
        self.distance.refresh()
        self.side.refresh()
        if axis is not None:
            self.heading.tell(axis.name, "how it gets up to speed")
            self._wish()
            if self.stall is not None and self.face_key == "stall":
                self.stall.follow(axis)
        self._show_tries()
        self.chart.redraw()

    def _show_tries(self) -> None:
        if self.isVisible():
            axis = self.session.choice.axis
            compared = axis is None or self.session.trials.change(axis) is None
            for part in (self.cards, self.fastest):
                part.setVisible(compared)
                part.refresh()
            if self.stall is not None and self.face_key == "stall":
                self.stall.show_map()

    def _show_trial(self) -> None:
        if not self.isVisible():
            return
        found, fault = self.session.trials.move, self.session.trials.fault
        self.chart.show_move(found, fault.said if fault else "")
        self.side.tell(found)
        if found is None:
            self.sentence.setText("")
        else:
            self.sentence.setText(_takes(found))


def _takes(found: TrialMove) -> str:
    """Say how long a move or a change of speed takes, and how far it goes."""
    if found.change is None:
        return f"takes {figures.short(found.seconds)} s and {figures.grouped(found.axis.steps)} steps"
    ramp = max(found.phases, key=lambda phase: phase.name != "cruise")
    return f"takes {figures.short(ramp.seconds)} s over {figures.short(ramp.distance)} {found.axis.axis.unit}"
