"""The Symptoms face: what the motor does is ticked, and what explains it is listed, each with its smallest cure."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QGridLayout, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from kivant.app.diagnosis import Diagnosis
from kivant.core.drive.symptoms import SYMPTOMS, Cause, Told
from kivant.core.machine import Axis
from kivant.core.machine.drives import set_values
from kivant.desktop.kit.theme import font
from kivant.desktop.state.per_axis import PerAxis
from kivant.desktop.state.session import Session
from kivant.desktop.stations.phases.cords import Cords
from kivant.desktop.stations.phases.face import Face
from kivant.desktop.stations.phases.hand_row import HandRow

MOST_SHOWN = 3
_SIGNS = {1: "+", -1: "−", 0: "0"}


class CauseRow(QWidget):
    """One cause: what is wrong, the cure, and what can be pressed."""

    def __init__(self) -> None:
        super().__init__()
        self.title, self.cure = QLabel(), QLabel()
        self.title.setFont(font("strong"))
        for label in (self.title, self.cure):
            label.setWordWrap(True)
            label.setTextFormat(Qt.TextFormat.PlainText)
        self.cure.setFont(font("small"))
        self.show_it = QPushButton("Show")
        self.show_it.setCheckable(True)
        self.show_it.setToolTip("Draw in the picture below how the cords would be.")
        self.act = QPushButton()
        for button in (self.show_it, self.act):
            button.setStyleSheet("padding: 3px 10px")
        buttons = QHBoxLayout()
        buttons.setSpacing(6)
        buttons.addWidget(self.cure, 1)
        for button in (self.show_it, self.act):
            buttons.addWidget(button, 0, Qt.AlignmentFlag.AlignTop)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(1)
        column.addWidget(self.title)
        column.addLayout(buttons)


class SymptomsFace(Face):
    """Ticks, single rows, causes, and the cords as they would be."""

    with_lines = False

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._diagnoses = PerAxis(session, Diagnosis)
        self.ticks: dict[Told, QCheckBox] = {}
        grid = QGridLayout()
        grid.setVerticalSpacing(3)
        for k, (key, text) in enumerate(SYMPTOMS.items()):
            self.ticks[key] = QCheckBox(text)
            self.ticks[key].clicked.connect(lambda _checked=False, k=key: self._toggle(k))
            grid.addWidget(self.ticks[key], k, 0)
        self.hand = HandRow(session)
        self.hand.noted.connect(self._note)
        self.notes = QLabel()
        self.notes.setFont(font("small"))
        self.notes.setWordWrap(True)
        self.anew = QPushButton("Start over")
        self.anew.setProperty("kind", "plain")
        self.anew.clicked.connect(self._forget)
        self.causes: list[Cause] = []
        self.rows = [CauseRow() for _ in range(MOST_SHOWN)]
        for number, row in enumerate(self.rows):
            row.show_it.clicked.connect(lambda _checked=False, n=number: self._preview(n))
            row.act.clicked.connect(lambda _checked=False, n=number: self._act(n))
        self.told = QLabel()
        self.told.setWordWrap(True)
        self.told.setMinimumHeight(38)
        self.cords = Cords(session)
        self._lay_out(grid)

    def _lay_out(self, grid: QGridLayout) -> None:
        def heading(text: str) -> QLabel:
            label = QLabel(text)
            label.setFont(font("heading"))
            return label

        left = QVBoxLayout()
        left.setSpacing(6)
        left.addWidget(heading("What does it do?"))
        left.addLayout(grid)
        left.addSpacing(6)
        left.addWidget(heading("Row by row, by hand"))
        left.addWidget(self.hand)
        left.addWidget(self.notes)
        left.addWidget(self.anew, 0, Qt.AlignmentFlag.AlignLeft)
        left.addStretch(1)
        right = QVBoxLayout()
        right.setSpacing(8)
        right.addWidget(heading("What explains it"))
        right.addWidget(self.told)
        for shown in self.rows:
            right.addWidget(shown)
        right.addStretch(1)
        right.addWidget(self.cords, 4)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(22)
        side = QWidget()
        side.setLayout(left)
        side.setMaximumWidth(270)
        left.setContentsMargins(0, 0, 0, 0)
        row.addWidget(side, 9)
        row.addLayout(right, 14)

    @property
    def diagnosis(self) -> Diagnosis:
        """What was told of the chosen axis; it belongs to the open document."""
        return self._diagnoses.now

    def _toggle(self, symptom: Told) -> None:
        self.diagnosis.toggle(symptom)
        self._refresh()

    def _note(self, step: int, direction: int, way: int) -> None:
        self.diagnosis.note(step, direction, way)
        self._refresh()

    def _forget(self) -> None:
        self.diagnosis.forget()
        self._refresh()

    def _preview(self, number: int) -> None:
        checked = self.rows[number].show_it.isChecked()
        self.cords.preview = self.causes[number] if checked else None
        for other, row in enumerate(self.rows):
            row.show_it.setChecked(checked and other == number)
        self.cords.update()

    def _act(self, number: int) -> None:
        cause, axis = self.causes[number], self.session.choice.axis
        if cause.station:
            self.session.station_wanted.emit(cause.station)
        elif axis is not None and cause.values:
            edit = set_values(self.session.choice.index, cause.values)
            if self.session.try_edit(edit, f"cure for {axis.name}"):
                self._forget()
                self.session.notice(f"Changed for {axis.name}. Run it slowly again; Ctrl+Z takes the change back.")

    def follow(self, axis: Axis) -> None:
        """Show what was told of an axis."""
        self.hand.refresh()
        self._refresh()

    def _refresh(self) -> None:
        axis, diagnosis = self.session.choice.axis, self.diagnosis
        if axis is None:
            return
        for key, tick in self.ticks.items():
            tick.setChecked(key in diagnosis.told)
        self.causes = diagnosis.causes(axis)
        asked = bool(diagnosis.told or diagnosis.moves)
        self.anew.setEnabled(asked)
        noted = ", ".join(f"{step}: {_SIGNS[way]}" for step, way in sorted(diagnosis.moves.items()))
        self.notes.setText(f"noted: {noted}" if noted else "")
        self.told.setVisible(not self.causes)
        self.told.setText(
            "No known cause explains all of it. Clear a tick, or note single rows."
            if asked
            else "Tick what the motor does at slow speed. The more you tick, the fewer causes are left."
        )
        self.cords.preview = None
        self.cords.update()
        free = not self.session.running.active
        for number, row in enumerate(self.rows):
            row.setVisible(number < len(self.causes))
            row.show_it.setChecked(False)
            if number < len(self.causes):
                cause = self.causes[number]
                row.title.setText(f"{number + 1}. {cause.title}")
                row.cure.setText(cause.cure)
                row.show_it.setVisible(bool(cause.wires or cause.dead))
                row.act.setVisible(bool(cause.values or cause.station))
                row.act.setText("Go there" if cause.station else "Do it here")
                row.act.setToolTip(_TIPS[bool(cause.station), bool(cause.swap)])
                row.act.setEnabled(free or bool(cause.station))


_TIPS = {
    (True, False): "Open that station.",
    (False, True): "Exchange the lines in the machine instead of the plugs: that does the same.",
    (False, False): "Change it in the machine.",
    (True, True): "Open that station.",
}
"""What the button does: by whether it goes to a station, and whether plugs could be swapped instead."""
