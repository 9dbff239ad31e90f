"""Calibrating, in the Travel station: go to a place, type what is read there, and see what explains all of it."""

from __future__ import annotations

from fractions import Fraction

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from kivant.app.measuring import Measuring, Target, way_to
from kivant.core.errors import KivantError
from kivant.core.machine import Axis
from kivant.core.quantity import as_decimal
from kivant.core.travel.calibrating import Fit, verdict
from kivant.core.travel.conversion import steps_per_unit
from kivant.desktop.kit import figures
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.stations.travel.calibration_row import CalibrationRow
from kivant.desktop.stations.travel.readings_bar import ReadingsBar
from kivant.desktop.stations.travel.residuals import Residuals
from kivant.desktop.stations.travel.tool_figures import ToolFigures
from kivant.desktop.stations.travel.tool_pointer import ToolPointer
from kivant.desktop.widgets.elided import ElidedText
from kivant.desktop.widgets.value_field import ValueField

_SIDES = {1: "from below", -1: "from above", 0: "from either side"}


class CalibrateFace(QWidget):
    """The place that is asked for, the reading, and the fit."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.found: Fit | str = ""
        self._went: Target | None = None  # where the axis was sent last
        self.asked = QLabel()
        self.asked.setFont(font("heading"))
        self.place = ValueField(session, "Place to read at", self._place_text, self._aim)
        self.place.setFixedWidth(120)
        self.side = self._button("", "Approach the place from the other side.", self._turn)
        self.go = self._button("Go there", "Move the axis there on the board, from the side that is named.", self._go)
        self.reading = ValueField(session, "Reading", lambda: "", self._take, "figure")
        self.reading.setPlaceholderText("what is read there")
        self.reading.setFixedWidth(190)
        self.read_off = self._button(
            "Take it", "Take what the pointer shows as the reading, once the axis is there.", self._read_off
        )
        self.pointer = ToolPointer(session)
        self.listed = ElidedText(session, "small", "muted")
        self.bar = ReadingsBar(session, self._again)
        self.tool = ToolFigures(session, self._again)
        self.verdict = QLabel()
        self.verdict.setFont(font("strong"))
        self.verdict.setWordWrap(True)
        self.verdict.setTextFormat(Qt.TextFormat.PlainText)
        self.verdict.setMinimumHeight(40)
        self.residuals = Residuals(session)
        self.row = CalibrationRow(session, self._again)
        self._lay_out()

    def _button(self, text: str, tip: str, act: object) -> QPushButton:
        button = QPushButton(text)
        button.setToolTip(tip)
        button.setStyleSheet("padding: 3px 10px")
        button.clicked.connect(act)
        return button

    def _lay_out(self) -> None:
        place, reading = QHBoxLayout(), QHBoxLayout()
        for row, widgets in (
            (place, (QLabel("read at"), self.place, self.side, self.go)),
            (reading, (self.reading, self.read_off)),
        ):
            row.setSpacing(6)
            for widget in widgets:
                row.addWidget(widget)
            row.addStretch(1)
        left = QVBoxLayout()
        left.setSpacing(6)
        left.addWidget(self.asked)
        for row in (place, reading):
            left.addLayout(row)
        left.addWidget(self.pointer)
        left.addWidget(self.listed)
        left.addWidget(self.bar)
        left.addStretch(1)
        right = QVBoxLayout()
        right.setSpacing(4)
        right.addWidget(self.verdict)
        right.addWidget(self.residuals, 1)
        right.addWidget(self.tool)
        right.addWidget(self.row)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(24)
        row.addLayout(left, 9)
        row.addLayout(right, 12)

    @property
    def measuring(self) -> Measuring:
        """What was read of the chosen axis; it belongs to the open document."""
        return self.session.bench.measurings.now

    # What is done

    def _place_text(self) -> str:
        axis = self.session.choice.axis
        return f"{_told(self.measuring.next(axis).position, 7)} {axis.unit}" if axis else ""

    def _aim(self, text: str, _merge: bool) -> None:
        axis = self.session.choice.axis
        if axis is not None:
            self.measuring.aim(axis, text, self.measuring.next(axis).approach or 1)
            self._again()

    def _turn(self) -> None:
        axis = self.session.choice.axis
        if axis is not None:
            target = self.measuring.next(axis)
            try:
                self.measuring.aim(axis, f"{float(target.position):.12g}", -target.approach or -1)
            except KivantError as error:  # its limits are closer together than a step
                self.session.notice(str(error))
            self._again()

    def _go(self) -> None:
        axis = self.session.choice.axis
        if axis is not None:
            self._went = self.measuring.next(axis)
            self.session.running.go_to(*({axis.name: as_decimal(at)} for at in way_to(axis, self._went)))

    def _take(self, text: str, _merge: bool) -> None:
        axis = self.session.choice.axis
        if axis is not None and text.strip():
            self.measuring.take(axis, text)
            self._again()

    def _read_off(self) -> None:
        if self.pointer.value is not None:
            self._take(f"{self.pointer.value:.3f}", False)

    def _again(self) -> None:
        self.session.bench.measurings.keep()
        axis = self.session.choice.axis
        if axis is not None:
            self.follow(axis)

    # What is shown

    def follow(self, axis: Axis) -> None:
        """Show what was read of an axis, and what follows."""
        measuring, free = self.measuring, not self.session.running.active
        target = measuring.next(axis)
        self.asked.setText(f"Go to {_told(target.position)} {axis.unit} {_SIDES[target.approach]}")
        for field in (self.place, self.reading):
            field.refresh()
        self.reading.setEnabled(True)
        self.side.setText(_SIDES[target.approach])
        last = ", ".join(f"{_told(o.observed)} at {_told(o.position)}" for o in measuring.read[-4:])
        said = f"{len(measuring.read)} readings{': … ' if len(measuring.read) > 4 else ': '}{last}"
        self.listed.set_text(said if measuring.read else "Nothing was read yet.", said)
        self.found = measuring.fit(axis)
        self.verdict.setText(verdict(axis, self.found) if isinstance(self.found, Fit) else self.found)
        self.residuals.show_fit(measuring, self.found if isinstance(self.found, Fit) else None)
        self.go.setEnabled(free)
        shown = self.session.running.tools.shown.get(axis.name) if free else None
        self.pointer.show_value(shown)
        self.read_off.setVisible(shown is not None)
        stands, half = self.session.running.standing.places.get(axis.name), 1 / (2 * steps_per_unit(axis))
        there = target == self._went and stands is not None and abs(Fraction(stands) - target.position) <= half
        self.read_off.setEnabled(free and there)
        self.bar.refresh()
        self.tool.refresh()
        self.row.show_fit(axis, self.found)


def _told(value: float | Fraction, digits: int = 6) -> str:
    return figures.plain(float(f"{float(value):.{digits}g}"))
