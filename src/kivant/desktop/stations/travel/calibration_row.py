"""The calibration of the chosen axis: what is in force, what was before, and what a fit can put in its place."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date
from fractions import Fraction

from PySide6.QtWidgets import QHBoxLayout, QLabel, QMenu, QPushButton, QSpinBox, QWidget

from kivant.app.measuring import Measuring
from kivant.core.machine import Axis
from kivant.core.machine.calibrations import apply_fit, forget_calibration, go_back
from kivant.core.machine.edits import gears_for_ratio, true_ratio
from kivant.core.machine.parts import Calibration, PastCalibration
from kivant.core.travel.calibrating import Fit
from kivant.core.travel.stages import stage_ratio
from kivant.core.travel.trains import MOST_STAGES, Train, simplest_fractions, trains
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session

_FRACTIONS = 3


class CalibrationRow(QWidget):
    """A line that tells it, and what can be done with it; `changed` is called where readings were begun anew."""

    def __init__(self, session: Session, changed: Callable[[], None]) -> None:
        super().__init__()
        self.session, self._changed = session, changed
        self.found: Fit | str = ""
        self.now = QLabel()
        self.now.setFont(font("small"))
        self.trains = self._menu(
            "Tooth trains", "Gearboxes of 9 to 60 teeth whose ratio is the measured one, in place of the ratio sold.",
            self._fill_trains,
        )  # fmt: skip
        self.stages = QSpinBox()
        self.stages.setRange(1, MOST_STAGES)
        self.stages.setValue(3)
        self.stages.setSuffix(" stages")
        self.stages.setAccessibleName("Stages of the tooth trains")
        self.stages.setToolTip("How many pairs of wheels the tooth trains have.")
        self.stages.valueChanged.connect(lambda n: self.stages.setSuffix(" stage" if n == 1 else " stages"))
        self.earlier = self._menu("Earlier", "Earlier calibrations: use one again.", self._fill_past)
        self.forget = QPushButton("Remove")
        self.forget.setToolTip("Remove the axis's calibration.")
        self.forget.setStyleSheet("padding: 3px 10px")
        self.forget.clicked.connect(self._forget)
        self.use = QPushButton("Apply")
        self.use.setProperty("kind", "main")
        self.use.setToolTip("Apply scale and lost motion to the axis. Ctrl+Z undoes it.")
        self.use.clicked.connect(self._apply)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        row.addWidget(self.now)
        row.addStretch(1)
        for part in (self.stages, self.trains, self.earlier, self.forget, self.use):
            row.addWidget(part)

    def _menu(self, text: str, tip: str, fill: Callable[[], None]) -> QPushButton:
        button = QPushButton(text)
        button.setToolTip(tip)
        button.setMenu(QMenu(self))
        button.menu().aboutToShow.connect(fill)
        return button

    @property
    def measuring(self) -> Measuring:
        """What was read of the chosen axis."""
        return self.session.bench.measurings.now

    def _apply(self) -> None:
        axis, found = self.session.choice.axis, self.found
        if axis is not None and isinstance(found, Fit):
            edit = apply_fit(self.session.choice.index, found, date.today().isoformat())
            if self.session.try_edit(edit, f"calibration of {axis.name}"):
                self.measuring.begin_anew(applied=True)  # what was read was read without it
                self._changed()
                against = "The tool goes the other way: see the finding." if found.sense < 0 else ""
                self.session.notice(against or "Applied. Read at some places again to check it.")

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
        stages = self.stages.value()
        for train in trains(measured, measured * found.scale_se, stages) if measured >= 1 else []:
            words = " × ".join(f"{driving}:{driven}" for driving, driven in train.pairs)
            action = menu.addAction(f"{words} = 1:{float(train.ratio):.6g}")
            action.triggered.connect(lambda _checked=False, t=train: self.use_train(t))
        if menu.isEmpty():
            menu.addAction(f"No train of {stages}{self.stages.suffix()} fits.").setEnabled(False)
        menu.addSeparator()
        for fraction in simplest_fractions(measured, measured * found.scale_se, _FRACTIONS):
            action = menu.addAction(f"the plain ratio 1:{fraction} = 1:{float(fraction):.6g}")
            action.triggered.connect(lambda _checked=False, f=fraction: self.use_ratio(f))

    def use_train(self, train: Train) -> None:
        """Put a train in the place of the ratio that was sold."""
        axis, place = self.session.choice.axis, self._sold()
        if axis is not None and place is not None:
            edit = gears_for_ratio(self.session.choice.index, place, train.pairs)
            if self.session.try_edit(edit, f"gears of {axis.name}"):
                self.measuring.begin_anew()
                self._changed()

    def use_ratio(self, ratio: Fraction) -> None:
        """Put a plain ratio in the place of the one that was sold."""
        axis, place = self.session.choice.axis, self._sold()
        if axis is not None and place is not None:
            edit = true_ratio(self.session.choice.index, place, ratio)
            if self.session.try_edit(edit, f"ratio of {axis.name}"):
                self.measuring.begin_anew()
                self._changed()

    def _fill_past(self) -> None:
        axis, menu = self.session.choice.axis, self.earlier.menu()
        menu.clear()
        past = (axis.calibration.history or ()) if axis and axis.calibration else ()
        for number, one in reversed(list(enumerate(past))):
            action = menu.addAction(calibration_words(one, axis.unit if axis else ""))
            action.triggered.connect(lambda _checked=False, n=number: self.put_back(n))

    def put_back(self, number: int) -> None:
        """Put an earlier calibration in force again, by its number in the history."""
        axis = self.session.choice.axis
        if axis is not None:
            edit = go_back(self.session.choice.index, number)
            self.session.try_edit(edit, f"earlier calibration of {axis.name}")

    def show_fit(self, axis: Axis, found: Fit | str) -> None:
        """Show what is in force, and offer what can be done with what was found."""
        self.found = found
        free, known, good = not self.session.running.active, axis.calibration, isinstance(found, Fit)
        self.now.setText(calibration_words(known, axis.unit) if known is not None else "not calibrated")
        self.use.setEnabled(free and good)
        for part in (self.stages, self.trains):
            part.setVisible(self._sold() is not None)
            part.setEnabled(free and good)
        self.forget.setEnabled(free and known is not None)
        self.earlier.setVisible(known is not None and bool(known.history))
        self.earlier.setEnabled(free)


def calibration_words(known: Calibration | PastCalibration, unit: str) -> str:
    """Say a calibration in a line: scale, play, and the day it was measured."""
    play = f", play {known.backlash:.4g} {unit}" if known.backlash else ""
    return f"scale {known.scale}{play}{f', {known.measured}' if known.measured else ''}"
