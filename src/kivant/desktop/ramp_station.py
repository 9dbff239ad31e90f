"""The Ramp station: how one axis gets up to speed and down again."""

from __future__ import annotations

from decimal import Decimal

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from kivant.app import editing
from kivant.app.probing import DEFAULT_DISTANCE, Probe, probe
from kivant.core.errors import KivantError
from kivant.core.travel import parse_position, steps_per_rev, steps_per_unit
from kivant.desktop import figures
from kivant.desktop.ramp_chart import RampChart
from kivant.desktop.session import Session
from kivant.desktop.theme import font
from kivant.desktop.value_field import ValueField

_LIMITS = (
    ("speed", "speed", "/s"),
    ("acceleration", "acceleration", "/s²"),
    ("deceleration", "deceleration", "/s²"),
    ("start_speed", "start speed", "/s"),
)
_PHASES = {"up": "speeding up", "on": "at speed", "down": "braking"}
_FIGURES = (
    "duration", *_PHASES.values(), "peak", "rotor", "step rate", "pulse limit", "first interval", "shortest"
)  # fmt: skip


class RampStation(QWidget):
    """The speed curve, its handles and figures."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.distances: dict[str, Decimal] = {}
        self.chart = RampChart(session, self._drag)
        self.heading = QLabel()
        self.heading.setFont(font("title"))
        self.heading.setTextFormat(Qt.TextFormat.PlainText)
        self.distance = ValueField(session, "Distance of the move", self._distance_text, self._take_distance)
        self.distance.setFixedWidth(150)
        self.sentence = QLabel()
        self.fields = {key: self._limit_field(key, name, per) for key, name, per in _LIMITS}
        self.values = {name: QLabel() for name in _FIGURES}
        self._lay_out()
        for signal in (session.machine_changed, session.selection_changed, session.run_changed, session.theme_changed):
            signal.connect(self.refresh)
        self.refresh()

    def _limit_field(self, key: str, name: str, per: str) -> ValueField:
        def show() -> str:
            axis = self.session.axis
            return f"{figures.plain(getattr(axis.limits, key))} {axis.unit}{per}" if axis else ""

        def take(text: str, goes_on: bool) -> None:
            axis = self.session.machine.axes[self.session.selected]
            edit = editing.limit(self.session.selected, key, text)
            self.session.edit(edit, f"{name} of {axis.name}", goes_on=goes_on)

        return ValueField(self.session, name.capitalize(), show, take, key=f"limits.{key}")

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
        axis = self.session.axis
        return f"{figures.plain(float(self._distance()))} {axis.unit}" if axis else ""

    def _distance(self) -> Decimal:
        axis = self.session.axis
        return self.distances.get(axis.name, DEFAULT_DISTANCE[axis.unit]) if axis else Decimal(0)

    def _take_distance(self, text: str, _goes_on: bool) -> None:
        axis = self.session.machine.axes[self.session.selected]
        fraction = parse_position(axis, text)
        distance = Decimal(fraction.numerator) / Decimal(fraction.denominator)
        probe(self.session.machine, self.session.selected, distance)  # refused where no plan can be made of it
        self.distances[axis.name] = distance
        self.refresh()

    def _drag(self, key: str, value: float, goes_on: bool) -> None:
        axis = self.session.machine.axes[self.session.selected]
        name = f"{key.replace('_', ' ')} of {axis.name}"
        try:
            self.session.edit(editing.limit_value(self.session.selected, key, value), name, goes_on=goes_on)
        except KivantError:
            return  # dragged past what a machine can have: it stays at the last value that can be

    def refresh(self) -> None:
        """Show the selected axis as it is now."""
        axis = self.session.axis
        for field in (self.distance, *self.fields.values()):
            field.refresh()
        if axis is None:
            return
        name = axis.name if len(axis.name) <= 36 else f"{axis.name[:35]}…"
        self.heading.setText(f"{name}: how it gets up to speed")
        if not self.isVisible() and self.chart.probe is not None:
            return  # caught up with when it is shown
        try:
            found = probe(self.session.machine, self.session.selected, self._distance())
        except KivantError as error:
            self.chart.show_probe(None, str(error.faults[0]))
            self.sentence.setText("")
            return
        self.chart.show_probe(found)
        self._tell(found)

    def showEvent(self, event: object) -> None:
        self.refresh()

    def _tell(self, found: Probe) -> None:
        axis, unit = found.axis, found.axis.axis.unit
        seconds = found.plan.duration - found.begin_s
        self.sentence.setText(f"takes {figures.short(seconds)} s and {figures.grouped(axis.steps)} steps")
        texts = dict.fromkeys(_FIGURES, "–")
        texts["duration"] = figures.seconds(seconds)
        for name, phase_s, distance in found.phases():
            texts[_PHASES[name]] = f"{figures.short(phase_s)} s, {figures.short(distance)} {unit}"
        rev_per_unit = float(steps_per_unit(axis.axis)) / steps_per_rev(axis.axis)
        texts["peak"] = f"{figures.short(axis.peak_speed)} {unit}/s"
        texts["rotor"] = f"{figures.short(axis.peak_speed * rev_per_unit * 60)} rpm"
        texts["step rate"] = f"{figures.short(axis.peak_pulse_hz)} steps/s"
        used, limit = 100 * axis.peak_pulse_hz / found.pulse_limit_hz, found.pulse_limit_hz
        texts["pulse limit"] = f"{figures.short(used)} % of {figures.short(limit)}/s"
        gaps = found.intervals_s()
        if len(gaps):
            texts["first interval"] = f"{figures.short(gaps[0] * 1e6)} µs"
            texts["shortest"] = f"{figures.short(float(gaps.min()) * 1e6)} µs"
        for name, text in texts.items():
            self.values[name].setText(text)
