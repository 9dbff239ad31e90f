"""The Current face: supplies over the plan's time, and the chosen motor's figures, current and heat."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from kivant.core.machine import Axis
from kivant.core.machine.drives import rest_in
from kivant.core.machine.edits import UNKNOWN
from kivant.core.machine.feeding import feed_axis
from kivant.core.path import Path
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.stations.phases.face import Face
from kivant.desktop.stations.phases.heat_bars import HeatBars
from kivant.desktop.stations.phases.supply_chart import SupplyChart
from kivant.desktop.stations.phases.supply_rows import SupplyRows
from kivant.desktop.stations.phases.switch_view import SwitchView
from kivant.desktop.widgets.axis_field import AxisField
from kivant.desktop.widgets.word_choice import WordChoice

WINDINGS = {"unipolar": "with taps (unipolar)", "bipolar": "without taps (bipolar)"}
AT_REST = {"hold": "keep the current", "reduced": "reduce the current", "off": "switch off"}


class FigureField(AxisField):
    """A figure that may be unknown."""

    def _shown(self) -> str:
        return UNKNOWN if self.value() is None else super()._shown()


def _unit(unit: str, _axis: Axis) -> str:
    return f" {unit}" if unit else ""


_MOTOR = (
    ("label", "motor", ""),
    ("current_a", "rated current", "A"),
    ("resistance_ohm", "resistance", "ohm"),
    ("inductance_mh", "inductance", "mH"),
    ("holding_torque_nm", "holding torque", "Nm"),
    ("detent_torque_nm", "detent torque", "Nm"),
    ("rotor_inertia_kgm2", "rotor inertia", "kgm²"),
)


def _supplies(axis: Axis, session: Session) -> dict[str | None, str]:
    named: dict[str | None, str] = {s.name: s.name for s in session.document.machine.supplies or ()}
    return {**named, None: "no supply"}


class CurrentFace(Face):
    """Supplies at the left, the motor at the right."""

    beside_rotor = with_lines = False

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.rows = SupplyRows(session)
        self.chart = SupplyChart(session)
        self.rows.looked_at.connect(self.chart.show_feed)
        self.figures = {
            key: FigureField(session, Path.of("motor", key), name, partial(_unit, unit)) for key, name, unit in _MOTOR
        }
        driver = Path.of("driver")
        self.load = [
            AxisField(session, Path.of("load", "inertia_kgm2"), "inertia of the load at the rotor", lambda _a: " kgm²"),
            AxisField(session, Path.of("load", "friction_torque_nm"), "friction at the rotor", lambda _a: " Nm"),
        ]
        self.winding = WordChoice(session, Path.of("motor", "winding"), "winding", WINDINGS)
        self.supply = WordChoice(session, driver / "supply", "supply", lambda a: _supplies(a, session), feed_axis)
        self.volts = FigureField(session, driver / "supply_v", "voltage", lambda _axis: " V")
        self.set_current = FigureField(session, driver / "current_a", "set current", lambda _axis: " A")
        self.rest = WordChoice(session, driver / "at_rest", "what happens at rest", AT_REST, rest_in)
        self.reduced = FigureField(session, driver / "reduced_percent", "current at rest", lambda _axis: " %")
        self.heat = HeatBars(session)
        self.switches = SwitchView(session, "current_switches", "switches for the current")
        self._labels: dict[QWidget, QLabel] = {}
        self._lay_out()

    def _lay_out(self) -> None:
        left = QVBoxLayout()
        left.setSpacing(6)
        left.addWidget(self._heading("Supplies"))
        left.addWidget(self.rows)
        left.addWidget(self.chart, 1)
        grid = QGridLayout()
        grid.setVerticalSpacing(3)
        grid.setHorizontalSpacing(8)
        motor: list[tuple[str, QWidget]] = [(name, self.figures[key]) for key, name, _unit in _MOTOR]
        motor.insert(1, ("winding", self.winding))
        drive: list[tuple[str, QWidget]] = [
            ("fed by", self.supply),
            ("voltage", self.volts),
            ("set current", self.set_current),
            ("at rest", self.rest),
            ("current at rest", self.reduced),
            *zip(("load, inertia", "load, friction"), self.load, strict=True),
        ]
        for column, rows in ((0, motor), (2, drive)):
            for line, (name, field) in enumerate(rows):
                label = QLabel(name)
                label.setFont(font("small"))
                self._labels[field] = label
                grid.addWidget(label, line, column)
                grid.addWidget(field, line, column + 1)
                field.setMinimumWidth(86)
        grid.setColumnStretch(1, 1)
        grid.setColumnStretch(3, 1)
        right = QVBoxLayout()
        right.setSpacing(6)
        right.addWidget(self._heading("Motor and driver"))
        right.addLayout(grid)
        right.addSpacing(4)
        right.addWidget(self._heading("Copper loss, and what holds the load"))
        right.addWidget(self.heat)
        right.addWidget(self.switches)
        right.addStretch(1)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(28)
        row.addLayout(left, 11)
        row.addLayout(right, 10)

    def _heading(self, text: str) -> QLabel:
        label = QLabel(text)
        label.setFont(font("heading"))
        return label

    def follow(self, axis: Axis) -> None:
        """Show supplies and motor as they are now."""
        self.rows.refresh()
        self.chart.redraw()
        for field in (*self.figures.values(), *self.load, self.volts, self.set_current, self.reduced):
            field.refresh()
        for choice in (self.winding, self.supply, self.rest):
            choice.refresh()
        pulses = hasattr(axis.driver, "current_a")
        for widget, shown in (
            (self.volts, axis.driver.supply is None or axis.driver.supply_v is not None),
            (self.set_current, pulses),
            (self.reduced, axis.driver.at_rest == "reduced"),
        ):
            widget.setVisible(shown)
            self._labels[widget].setVisible(shown)
        self.switches.setVisible(pulses)
        if pulses:
            self.switches.refresh()
        self.heat.update()
