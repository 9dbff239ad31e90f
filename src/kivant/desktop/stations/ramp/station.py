"""The Ramp station: how one axis gets up to speed and down again."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from kivant.core.errors import KivantError
from kivant.core.machine import Axis
from kivant.core.machine.edits import set_value
from kivant.core.motion.trial import TrialMove
from kivant.core.path import Path, axis_path
from kivant.core.travel.conversion import rotor_turns_per_unit
from kivant.desktop.kit import figures
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.stations.ramp.chart import RampChart
from kivant.desktop.widgets.axis_field import AxisField
from kivant.desktop.widgets.heading import Heading
from kivant.desktop.widgets.station_page import StationPage
from kivant.desktop.widgets.value_field import ValueField

_LIMITS = (
    ("speed", "speed", "/s"),
    ("acceleration", "acceleration", "/s²"),
    ("deceleration", "deceleration", "/s²"),
    ("start_speed", "start speed", "/s"),
)
_PHASES = {"acceleration": "accelerating", "cruise": "cruising", "deceleration": "decelerating"}
_FIGURES = (
    "duration", *_PHASES.values(), "peak", "rotor", "step rate", "pulse limit", "first interval", "shortest"
)  # fmt: skip


def _unit(per: str) -> Callable[[Axis], str]:
    return lambda axis: f" {axis.unit}{per}"


class RampStation(StationPage):
    """The speed curve, its handles and figures."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.chart = RampChart(session, self._drag)
        self.heading = Heading()
        self.distance = ValueField(session, "Distance of the move", self._distance_text, self._take_distance)
        self.distance.setFixedWidth(150)
        self.sentence = QLabel()
        self.sentence.setTextFormat(Qt.TextFormat.PlainText)
        self.fields = {key: AxisField(session, Path.of("limits", key), name, _unit(per)) for key, name, per in _LIMITS}
        self.values = {name: QLabel() for name in _FIGURES}
        self._lay_out()
        session.trial_changed.connect(self._show_trial)

    def _lay_out(self) -> None:
        lead = QLabel("a move of")
        row = QHBoxLayout()
        row.setSpacing(6)
        for widget in (lead, self.distance, self.sentence):
            row.addWidget(widget)
        row.addStretch(1)
        grid = QGridLayout()
        grid.setVerticalSpacing(7)
        grid.setColumnStretch(1, 1)
        line = 0
        for key, name, _per in _LIMITS:
            grid.addWidget(QLabel(name), line, 0)
            grid.addWidget(self.fields[key], line, 1)
            line += 1
        title = QLabel("of this move")
        title.setFont(font("heading"))
        grid.addWidget(title, line, 0, 1, 2)
        grid.setRowMinimumHeight(line, 44)
        for name, label in self.values.items():
            line += 1
            grid.addWidget(QLabel(name), line, 0)
            label.setFont(font("strong"))
            label.setAlignment(Qt.AlignmentFlag.AlignRight)
            grid.addWidget(label, line, 1)
        grid.setRowStretch(line + 1, 1)
        side = QWidget()
        side.setFixedWidth(250)
        side.setLayout(grid)
        grid.setContentsMargins(0, 0, 0, 0)
        body = QHBoxLayout()
        body.setSpacing(22)
        body.addWidget(self.chart, 1)
        body.addWidget(side)
        column = QVBoxLayout(self)
        column.setContentsMargins(26, 14, 24, 10)
        column.setSpacing(4)
        column.addWidget(self.heading)
        column.addLayout(row)
        column.addLayout(body, 1)

    def _distance_text(self) -> str:
        axis = self.session.choice.axis
        return f"{figures.plain(float(self.session.trials.distance(axis)))} {axis.unit}" if axis else ""

    def _take_distance(self, text: str, _merge: bool) -> None:
        axis = self.session.choice.axis
        if axis is not None:
            self.session.trials.set_distance(axis, text)
            self._wish()

    def _wish(self) -> None:
        self.session.trials.wish(self.session.document.machine, self.session.choice.index)

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
        """Show the chosen axis as it is now; its trial move comes when it is made."""
        for field in (self.distance, *self.fields.values()):
            field.refresh()
        if axis is not None:
            self.heading.tell(axis.name, "how it gets up to speed")
            self._wish()
        self.chart.redraw()

    def _show_trial(self) -> None:
        if not self.isVisible():
            return
        found, fault = self.session.trials.move, self.session.trials.fault
        self.chart.show_move(found, fault.said if fault else "")
        if found is None:
            self.sentence.setText("")
            for label in self.values.values():
                label.setText("–")
        else:
            self._tell(found)

    def _tell(self, found: TrialMove) -> None:
        axis, unit = found.axis, found.axis.axis.unit
        self.sentence.setText(f"takes {figures.short(found.seconds)} s and {figures.grouped(axis.steps)} steps")
        texts = dict.fromkeys(_FIGURES, "–")
        texts["duration"] = figures.seconds(found.seconds)
        for phase in found.phases:
            texts[_PHASES[phase.name]] = f"{figures.short(phase.seconds)} s, {figures.short(phase.distance)} {unit}"
        texts["peak"] = f"{figures.short(axis.peak_speed)} {unit}/s"
        texts["rotor"] = f"{figures.short(axis.peak_speed * float(rotor_turns_per_unit(axis.axis)) * 60)} rpm"
        texts["step rate"] = f"{figures.short(axis.peak_pulse_hz)} steps/s"
        used, limit = 100 * axis.peak_pulse_hz / found.pulse_limit_hz, found.pulse_limit_hz
        texts["pulse limit"] = f"{figures.short(used)} % of {figures.short(limit)}/s"
        gaps = found.intervals_s
        if len(gaps):
            texts["first interval"] = f"{figures.short(gaps[0] * 1e6)} µs"
            texts["shortest"] = f"{figures.short(float(gaps.min()) * 1e6)} µs"
        for name, text in texts.items():
            self.values[name].setText(text)
