"""The Motor station: the motor's plate, torque over speed against the load, and what is usable of it."""

from __future__ import annotations

import math
from fractions import Fraction
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from kivant.core.drive.copper import supply_volts
from kivant.core.machine import Axis
from kivant.core.machine.edits import NONE, UNKNOWN, set_value
from kivant.core.motor.holding import Holding, holding
from kivant.core.motor.load import LoadAtRotor
from kivant.core.motor.nameplate import nameplate
from kivant.core.motor.spare import USUAL_MARGIN, cut_down
from kivant.core.motor.usable import Ability
from kivant.core.path import Path, axis_path
from kivant.desktop.kit import figures
from kivant.desktop.kit.speed_words import forms_words
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.stations.motor.shelf_row import ShelfRow
from kivant.desktop.stations.motor.torque_chart import TorqueChart
from kivant.desktop.widgets.axis_field import AxisField
from kivant.desktop.widgets.elided import ElidedText
from kivant.desktop.widgets.figure_slider import Dragged, FigureSlider
from kivant.desktop.widgets.heading import Heading
from kivant.desktop.widgets.station_page import StationPage
from kivant.desktop.widgets.word_choice import WordChoice

_PLATE = (
    ("motor.label", "motor", ""),
    ("motor.full_steps_per_rev", "full steps", " a turn"),
    ("motor.current_a", "rated current", " A"),
    ("motor.resistance_ohm", "resistance", " ohm"),
    ("motor.inductance_mh", "inductance", " mH"),
    ("motor.holding_torque_nm", "holding torque", " Nm"),
    ("motor.detent_torque_nm", "detent torque", " Nm"),
    ("motor.rotor_inertia_kgm2", "rotor inertia", " kgm²"),
    ("motor.voltage_constant_vs", "voltage constant", " Vs/rad"),
    ("motor.torque_points", "torque points", ""),
)
_LOAD = (
    ("driver.supply_v", "voltage", " V"),
    ("driver.current_a", "set current", " A"),
    ("load.friction_torque_nm", "friction, rotor", " Nm"),
    ("load.inertia_kgm2", "inertia, rotor", " kgm²"),
    ("load.mass_kg", "moving mass", " kg"),
    ("load.force_n", "force against +", " N"),
    ("load.torque_nm", "torque against +", " Nm"),
    ("load.viscous_nms", "viscous, tool", " Nms"),
    ("load.efficiency", "efficiency", ""),
    ("margin", "margin", ""),
)


_CONNECTIONS = {None: "as wired", "half_coil": "half coils", "series": "in series", "parallel": "in parallel"}
_LEAST_V, _MOST_V = 0.5, 60.0
_MOST_RATED = 2.0  # times the rated current that can be dragged to


class PlateField(AxisField):
    """A figure that may be unknown: then the one that is reckoned with is shown, marked as a guess."""

    def _shown(self) -> str:
        axis, value = self.session.choice.axis, self.value()
        if axis is None:
            return ""
        if self.path == Path.of("margin"):
            return figures.plain(axis.margin or USUAL_MARGIN)
        if self.path == Path.of("motor", "torque_points"):
            points = axis.motor.torque_points
            return ", ".join(f"{figures.plain(a)} {figures.plain(b)}" for a, b in points) if points else "modelled"
        if value is not None:
            return super()._shown()
        if self.path[0] == "load":
            return "1" if self.path.key == "efficiency" else NONE
        guess = next((g for g in nameplate(axis.motor).estimates if g.key == self.path.key), None)
        return UNKNOWN if guess is None else f"≈ {figures.short(guess.value)}{self._unit(axis)}"

    def refresh(self) -> None:
        """Show the value, and how it was guessed if it was."""
        super().refresh()
        axis = self.session.choice.axis
        guesses = nameplate(axis.motor).estimates if axis else ()
        guess = next((g for g in guesses if g.key == self.path.key), None)
        told = f"\nNot known; guessed {guess.why}." if guess else ""
        self.setToolTip(self.toolTip().split("\nNot known")[0] + told)


class MotorStation(StationPage):
    """The plate at the left, the chart at the right, and below it what follows."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.heading = Heading()
        self.sentence = ElidedText(session, "text", "ink")
        self.fields = {key: self._field(key, name, unit) for key, name, unit in (*_PLATE, *_LOAD)}
        self._labels: dict[str, QLabel] = {}
        self.chart = TorqueChart(session)
        self.shelf = ShelfRow(session)
        self.connection = WordChoice(
            session, Path.of("driver", "connection"), "connection of the windings", _CONNECTIONS
        )
        self.volts = FigureSlider(session, "voltage", " V", self._volts)
        self.amps = FigureSlider(session, "set current", " A", self._amps)
        self.usable = self._told()
        self.forms = self._told()
        self.forms.setFont(font("small"))
        self.held = self._told()
        self.terms = ElidedText(session, "small", "muted")
        self.take_speed = self._button("", "Make it the axis's speed. Ctrl+Z undoes it.", self._take_speed)
        self.take_acceleration = self._button(
            "", "Make it the axis's acceleration and deceleration. Ctrl+Z undoes it.", self._take_acceleration
        )
        self._lay_out()

    def _field(self, key: str, name: str, unit: str) -> PlateField:
        return PlateField(self.session, Path(key.split(".")), name, lambda _axis: unit)

    def _told(self) -> QLabel:
        label = QLabel()
        label.setTextFormat(Qt.TextFormat.PlainText)
        label.setWordWrap(True)
        return label

    def _button(self, text: str, tip: str, act: object) -> QPushButton:
        button = QPushButton(text)
        button.setToolTip(tip)
        button.setStyleSheet("padding: 3px 10px")
        button.clicked.connect(act)
        return button

    def _lay_out(self) -> None:
        plate = QWidget()
        plate.setFixedWidth(264)
        grid = QGridLayout(plate)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(0)
        grid.setHorizontalSpacing(10)
        line = 0
        loads = QLabel("Drive and load")
        loads.setFont(font("heading"))
        for heading, rows in ((self.shelf, _PLATE), (loads, _LOAD)):
            grid.setRowMinimumHeight(line, 28)
            grid.addWidget(heading, line, 0, 1, 2)
            for key, name, _unit in rows:
                line += 1
                label = self._labels[key] = QLabel(name)
                label.setFont(font("small"))
                label.setBuddy(self.fields[key])
                grid.addWidget(label, line, 0)
                grid.addWidget(self.fields[key], line, 1)
            line += 1
        self._joined = QLabel("windings")
        self._joined.setFont(font("small"))
        grid.addWidget(self._joined, line, 0)
        own = QHBoxLayout()
        own.addSpacing(4)
        own.addWidget(self.connection)
        own.addStretch(1)
        grid.addLayout(own, line, 1)
        grid.setRowStretch(line + 1, 1)
        grid.setColumnStretch(1, 1)
        body = QHBoxLayout()
        body.setSpacing(26)
        body.addWidget(plate)
        body.addLayout(self._chart_column(), 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(26, 14, 24, 6)
        column.setSpacing(4)
        column.addWidget(self.heading)
        column.addWidget(self.sentence)
        column.addLayout(body, 1)

    def _chart_column(self) -> QVBoxLayout:
        """Return the chart, what is dragged under it, and what follows from both."""
        takes = QHBoxLayout()
        takes.setSpacing(6)
        takes.addWidget(self.take_speed)
        takes.addWidget(self.take_acceleration)
        takes.addStretch(1)
        right = QVBoxLayout()
        right.setSpacing(5)
        right.addWidget(self.chart, 1)
        sliders = QGridLayout()
        sliders.setHorizontalSpacing(10)
        sliders.setVerticalSpacing(2)
        sliders.setColumnStretch(1, 1)
        for line, slider in enumerate((self.volts, self.amps)):
            slider.put_in(sliders, line)
        right.addLayout(sliders)
        right.addWidget(self.usable)
        right.addWidget(self.forms)
        right.addLayout(takes)
        right.addWidget(self.held)
        right.addWidget(self.terms)
        return right

    def _volts(self, axis: Axis) -> Dragged | None:
        """Return the voltage in force: of the supply that the axis names, or its driver's own."""
        machine = self.session.document.machine
        value = supply_volts(machine, axis)
        if value is None:
            return None
        names, named = [supply.name for supply in machine.supplies or ()], axis.driver.supply
        own = axis_path(self.session.choice.index, "driver", "supply_v")
        place = own if named is None else Path(("supplies", names.index(named), "volts"))
        return Dragged(place, value, _LEAST_V, max(_MOST_V, value))

    def _amps(self, axis: Axis) -> Dragged | None:
        """Return the current that the driver is set to, None where the supply alone makes it."""
        value = getattr(axis.driver, "current_a", None)
        if value is None:
            return None
        place = axis_path(self.session.choice.index, "driver", "current_a")
        return Dragged(place, value, 0.01, max(_MOST_RATED * nameplate(axis.motor).current_a, value))

    def _take(self, keys: tuple[str, ...], value: float, name: str) -> None:
        axis = self.session.choice.axis
        if axis is None or not value > 0:
            return
        rounded = cut_down(value)
        place = axis_path(self.session.choice.index, "limits")

        def edit(machine: object) -> object:
            for key in keys:
                machine = set_value(place / key, rounded)(machine)  # type: ignore[arg-type]
            return machine

        self.session.try_edit(edit, f"{name} of {axis.name}")  # type: ignore[arg-type]

    def _take_speed(self) -> None:
        self._take(("speed",), self.session.bench.abilities.of(self.session.choice.index).speed, "speed")

    def _take_acceleration(self) -> None:
        found = self.session.bench.abilities.of(self.session.choice.index)
        self._take(("acceleration", "deceleration"), found.acceleration, "acceleration")

    def follow(self, axis: Axis | None) -> None:
        """Show the chosen axis's motor as it is now."""
        for key, field in self.fields.items():
            field.refresh()
            shown = axis is not None and _has(axis, key)
            field.setVisible(shown)
            self._labels[key].setVisible(shown)
        if axis is None:
            return
        self.shelf.refresh()
        found = self.session.bench.abilities.of(self.session.choice.index)
        self.heading.tell(axis.name, "what its motor can do")
        sentence = drive_words(found)
        self.sentence.set_text(sentence, sentence)
        self.chart.show_axis(axis, found)
        self.usable.setText(usable_words(axis, found))
        self.forms.setText(caps_words(axis, found))
        self.connection.refresh()
        for slider in (self.volts, self.amps):
            slider.refresh()
        free = not self.session.running.active
        self.take_speed.setText(f"Take {figures.plain(cut_down(found.speed))} {axis.unit}/s")
        self.take_speed.setEnabled(free and found.speed > 0)
        self.take_acceleration.setText(f"Take {figures.plain(cut_down(found.acceleration))} {axis.unit}/s²")
        self.take_acceleration.setEnabled(free and found.acceleration > 0)
        self.held.setText(held_words(holding(self.session.document.machine, axis)))
        terms = load_words(found.load)
        self.terms.set_text(f"at the rotor: {terms}", terms)


def _has(axis: Axis, key: str) -> bool:
    """Return whether an axis has a field at all: a turning one has no moving mass, a coil driver no set current."""
    first, _dot, name = key.partition(".")
    if axis.unit == "deg" and name in ("mass_kg", "force_n"):
        return False
    if axis.unit == "mm" and name == "torque_nm":
        return axis.load.torque_nm is not None
    if name == "supply_v":
        return axis.driver.supply is None
    return first != "driver" or hasattr(axis.driver, name)


def drive_words(found: Ability) -> str:
    """Say how a motor is driven, and what that bounds."""
    drive = found.drive
    return (
        f"{figures.short(drive.supply_v)} V drive {figures.rough3(drive.current_a)} A through a winding of "
        f"{figures.rough3(drive.inductance_h * 1000)} mH: the current just reverses within a step at "
        f"{figures.short(float(f'{drive.ceiling_full_steps_hz:.4g}'))} full steps/s, with "
        f"{figures.rough3(1000 / drive.ceiling_full_steps_hz)} ms between them"
    )


def usable_words(axis: Axis, found: Ability) -> str:
    """Say what is usable, and how the axis's own speed stands to it."""
    if not found.speed > 0:
        return "The load is more than the motor can start: gear it down, or use a stronger motor or a smaller margin."
    speed, unit, by = figures.rough3(found.speed), axis.unit, found.limited_by
    wanted = axis.limits.speed
    fits = "within that" if wanted <= found.speed else "more than that"
    whose = "torque" if by == "torque" else f"{by}'s pulses"
    return (
        f"With a margin of {figures.plain(found.margin)} it goes up to {speed} {unit}/s, limited by the {whose}; "
        f"{figures.short(wanted)} {unit}/s is {fits}. Up to there it can accelerate at "
        f"{figures.rough3(found.acceleration)} {unit}/s²."
    )


def caps_words(axis: Axis, found: Ability) -> str:
    """Say how fast each of torque, driver and board lets an axis go, and the usable speed in every form."""
    caps = ", ".join(f"{key} {figures.rough3(value)}" for key, value in found.caps.items() if math.isfinite(value))
    if not found.speed > 0:
        return f"{axis.unit}/s by {caps}"
    return f"{axis.unit}/s by {caps}; usable: {forms_words(axis, Fraction(cut_down(found.speed)))}"


def load_words(load: LoadAtRotor) -> str:
    """Say what the rotor has to move, term by term."""
    terms = [f"{term.name} {figures.rough3(term.value)} kgm²" for term in load.inertias]
    pulls = (("friction", load.friction_nm), ("pull against +", load.pull_nm(1)), ("against −", load.pull_nm(-1)))
    terms += [f"{name} {figures.rough3(value)} Nm" for name, value in pulls if value]
    if load.viscous_nms:
        terms.append(f"viscous {figures.rough3(load.viscous_nms)} Nms")
    return "; ".join(terms)


def held_words(found: Holding) -> str:
    """Say what holds the load at a standstill, and whether it is enough."""
    three = partial(map, figures.rough3)
    powered, rest, unpowered, needed = three((found.powered_nm, found.rest_nm, found.unpowered_nm, found.needed_nm))
    told = f"It holds {powered} Nm with power, {rest} at rest, {unpowered} without"
    if not found.needed_nm:
        return f"{told}; its friction is the only load."
    states = (("with power", found.powered_nm), ("at rest", found.rest_nm), ("without power", found.unpowered_nm))
    weak = next((word for word, value in states if value < found.needed_nm), "")
    return f"{told}; the load pulls {needed} Nm{f', so that it does not hold {weak}.' if weak else '.'}"
