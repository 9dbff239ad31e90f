"""Calibrating, in the Travel station: go to a place, type what is read there, and see what explains all of it."""

from __future__ import annotations

from datetime import date
from fractions import Fraction

from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QHBoxLayout, QLabel, QMenu, QPushButton, QVBoxLayout, QWidget

from kivant.app.measuring import Measuring, Target, way_to
from kivant.core.errors import KivantError
from kivant.core.machine import Axis
from kivant.core.machine.calibrations import apply_fit, forget_calibration
from kivant.core.machine.edits import gears_for_ratio
from kivant.core.travel.calibrating import Fit, verdict
from kivant.core.travel.conversion import steps_per_unit
from kivant.core.travel.stages import stage_ratio
from kivant.core.travel.trains import Train, trains
from kivant.desktop.kit.theme import font
from kivant.desktop.state.per_axis import PerAxis
from kivant.desktop.state.session import Session
from kivant.desktop.stations.travel.residuals import Residuals
from kivant.desktop.stations.travel.standin_menu import StandinMenu
from kivant.desktop.stations.travel.tool_pointer import ToolPointer
from kivant.desktop.widgets.elided import ElidedText
from kivant.desktop.widgets.value_field import ValueField

_SIDES = {1: "from below", -1: "from above", 0: "from either side"}


class CalibrateFace(QWidget):
    """The place that is asked for, the reading, and the fit."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._measuring = PerAxis(session, Measuring)
        self.found: Fit | str = ""
        self._went: Target | None = None  # where the axis was sent last
        self.asked = QLabel()
        self.asked.setFont(font("heading"))
        self.place = ValueField(session, "Place to read at", self._place_text, self._aim)
        self.place.setFixedWidth(120)
        self.side = self._button("", "Come to the place from the other side.", self._turn)
        self.go = self._button("Go there", "Move the axis there on the board, from the side that is named.", self._go)
        self.reading = ValueField(session, "Reading", lambda: "", self._take, "figure")
        self.reading.setPlaceholderText("what is read there")
        self.reading.setFixedWidth(190)
        self.read_off = self._button(
            "Take it", "Take what the pointer shows as the reading, once the axis is there.", self._read_off
        )
        self.pointer = ToolPointer(session)
        self.standin = StandinMenu(session, self._again)
        self.listed = ElidedText(session, "small", "muted")
        self.back = self._button("Take the last back", "Forget the latest reading.", self._take_back)
        self.paste = self._button("Paste", "Add readings from the clipboard: position,approach,observed.", self._paste)
        self.anew = self._button("Begin anew", "Forget all readings.", self._begin_anew)
        self.verdict = QLabel()
        self.verdict.setFont(font("strong"))
        self.verdict.setWordWrap(True)
        self.verdict.setTextFormat(Qt.TextFormat.PlainText)
        self.verdict.setMinimumHeight(40)
        self.residuals = Residuals(session)
        self.now = QLabel()
        self.now.setFont(font("small"))
        self.use = QPushButton("Apply")
        self.use.setProperty("kind", "main")
        self.use.setToolTip("Put scale and lost motion into the axis. Ctrl+Z undoes it.")
        self.use.clicked.connect(self._apply)
        self.forget = self._button("Remove", "Take the axis's calibration away.", self._forget)
        self.trains = QPushButton("Tooth trains")
        self.trains.setToolTip(
            "Gearboxes of 9 to 60 teeth whose ratio is the measured one, in place of the ratio sold."
        )
        self.trains.setMenu(QMenu(self))
        self.trains.menu().aboutToShow.connect(self._fill_trains)
        self._lay_out()

    def _button(self, text: str, tip: str, act: object) -> QPushButton:
        button = QPushButton(text)
        button.setToolTip(tip)
        button.setStyleSheet("padding: 3px 10px")
        button.clicked.connect(act)
        return button

    def _lay_out(self) -> None:
        place, reading, tools, ends = QHBoxLayout(), QHBoxLayout(), QHBoxLayout(), QHBoxLayout()
        for row, widgets in (
            (place, (QLabel("read at"), self.place, self.side, self.go)),
            (reading, (self.reading, self.read_off)),
            (tools, (self.back, self.paste, self.anew, self.standin)),
            (ends, (self.now,)),
        ):
            row.setSpacing(6)
            for widget in widgets:
                row.addWidget(widget)
            row.addStretch(1)
        ends.addWidget(self.trains)
        ends.addWidget(self.forget)
        ends.addWidget(self.use)
        left = QVBoxLayout()
        left.setSpacing(6)
        left.addWidget(self.asked)
        for row in (place, reading):
            left.addLayout(row)
        left.addWidget(self.pointer)
        left.addWidget(self.listed)
        left.addLayout(tools)
        left.addStretch(1)
        right = QVBoxLayout()
        right.setSpacing(4)
        right.addWidget(self.verdict)
        right.addWidget(self.residuals, 1)
        right.addLayout(ends)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(24)
        row.addLayout(left, 9)
        row.addLayout(right, 12)

    @property
    def measuring(self) -> Measuring:
        """What was read of the chosen axis; it belongs to the open document."""
        return self._measuring.now

    # What is done

    def _place_text(self) -> str:
        axis = self.session.choice.axis
        return f"{float(self.measuring.next(axis).position):.7g} {axis.unit}" if axis else ""

    def _aim(self, text: str, _merge: bool) -> None:
        axis = self.session.choice.axis
        if axis is not None:
            self.measuring.aim(axis, text, self.measuring.next(axis).approach or 1)
            self.follow(axis)

    def _turn(self) -> None:
        axis = self.session.choice.axis
        if axis is not None:
            target = self.measuring.next(axis)
            try:
                self.measuring.aim(axis, f"{float(target.position):.12g}", -target.approach or -1)
            except KivantError as error:  # its limits are closer together than a step
                self.session.notice(str(error))
            self.follow(axis)

    def _go(self) -> None:
        axis = self.session.choice.axis
        if axis is not None:
            self._went = self.measuring.next(axis)
            self.session.running.visit(way_to(axis, self._went))

    def _take(self, text: str, _merge: bool) -> None:
        axis = self.session.choice.axis
        if axis is not None and text.strip():
            self.measuring.take(axis, text)
            self.follow(axis)

    def _read_off(self) -> None:
        if self.pointer.value is not None:
            self._take(f"{self.pointer.value:.3f}", False)

    def _take_back(self) -> None:
        if self.measuring.read:
            self.measuring.read.pop()
        self._again()

    def _paste(self) -> None:
        axis = self.session.choice.axis
        if axis is None:
            return
        try:
            count = self.measuring.paste(axis, QGuiApplication.clipboard().text())
            self.session.notice(f"Added: {count} readings.")
        except KivantError as error:
            self.session.notice(str(error))
        self._again()

    def _begin_anew(self) -> None:
        self.measuring.begin_anew()
        self._again()

    def _apply(self) -> None:
        axis, found = self.session.choice.axis, self.found
        if axis is not None and isinstance(found, Fit):
            edit = apply_fit(self.session.choice.index, found, date.today().isoformat())
            if self.session.try_edit(edit, f"calibration of {axis.name}"):
                self.measuring.begin_anew(applied=True)  # what was read was read without it
                self._again()
                self.session.notice("Applied. Read at some places again to check it.")

    def _forget(self) -> None:
        axis = self.session.choice.axis
        if axis is not None:
            self.session.try_edit(forget_calibration(self.session.choice.index), f"no calibration of {axis.name}")

    def _sold(self) -> int | None:
        """Return the place of the one stage of which only the ratio is known, None where there is none."""
        axis = self.session.choice.axis
        places = [k for k, stage in enumerate(axis.travel) if stage.stage == "ratio"] if axis else []
        return places[0] if len(places) == 1 else None

    def _fill_trains(self) -> None:
        axis, found, place, menu = self.session.choice.axis, self.found, self._sold(), self.trains.menu()
        menu.clear()
        if axis is None or place is None or not isinstance(found, Fit):
            return
        known = float(axis.calibration.scale) if axis.calibration else 1.0
        measured = float(stage_ratio(axis.travel[place])) / (found.scale * known)
        for stages in (1, 2, 3):
            for train in trains(measured, measured * found.scale_se, stages, 4) if measured >= 1 else []:
                words = " × ".join(f"{driving}:{driven}" for driving, driven in train.pairs)
                action = menu.addAction(f"{words} = 1:{float(train.ratio):.6g}")
                action.triggered.connect(lambda _checked=False, t=train: self.use_train(t))
        if menu.isEmpty():
            menu.addAction("None fits within the uncertainty.").setEnabled(False)

    def use_train(self, train: Train) -> None:
        """Put a train in the place of the ratio that was sold."""
        axis, place = self.session.choice.axis, self._sold()
        if axis is not None and place is not None:
            edit = gears_for_ratio(self.session.choice.index, place, train.pairs)
            if self.session.try_edit(edit, f"gears of {axis.name}"):
                self._begin_anew()

    def _again(self) -> None:
        axis = self.session.choice.axis
        if axis is not None:
            self.follow(axis)

    # What is shown

    def follow(self, axis: Axis) -> None:
        """Show what was read of an axis, and what follows."""
        measuring, free = self.measuring, not self.session.running.active
        target = measuring.next(axis)
        self.asked.setText(f"Go to {float(target.position):.6g} {axis.unit} {_SIDES[target.approach]}")
        for field in (self.place, self.reading):
            field.refresh()
        self.reading.setEnabled(True)
        self.side.setText(_SIDES[target.approach])
        last = ", ".join(f"{o.observed:.6g} at {o.position:.6g}" for o in measuring.read[-4:])
        said = f"{len(measuring.read)} readings{': … ' if len(measuring.read) > 4 else ': '}{last}"
        self.listed.set_text(said if measuring.read else "Nothing was read yet.", said)
        self.found = measuring.fit(axis)
        good = isinstance(self.found, Fit)
        self.verdict.setText(verdict(axis, self.found) if isinstance(self.found, Fit) else self.found)
        self.residuals.show_fit(measuring, self.found if isinstance(self.found, Fit) else None)
        known = axis.calibration
        text = "not calibrated"
        if known is not None:
            play = f", play {known.backlash:.4g} {axis.unit}" if known.backlash else ""
            text = f"scale {known.scale}{play}{f', {known.measured}' if known.measured else ''}"
        self.now.setText(text)
        self.go.setEnabled(free)
        shown = self.session.running.tools.shown.get(axis.name) if free else None
        self.pointer.show_value(shown)
        self.read_off.setVisible(shown is not None)
        stands, half = self.session.running.standing.places.get(axis.name), 1 / (2 * steps_per_unit(axis))
        there = target == self._went and stands is not None and abs(Fraction(stands) - target.position) <= half
        self.read_off.setEnabled(free and there)
        self.standin.setVisible(not self.session.running.address)
        self.standin.setEnabled(free)
        self.use.setEnabled(free and good)
        self.trains.setVisible(self._sold() is not None)
        self.trains.setEnabled(free and good)
        self.forget.setEnabled(free and known is not None)
        self.back.setEnabled(bool(measuring.read))
