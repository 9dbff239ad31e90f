"""The stall map of the chosen axis, with what can be dragged to see it change: the ramp, the load and the margin."""

from __future__ import annotations

import math
from dataclasses import replace

from PySide6.QtCore import Qt
from PySide6.QtGui import QHideEvent
from PySide6.QtWidgets import QGridLayout, QLabel, QSlider, QVBoxLayout, QWidget

from kivant.core.machine import Axis
from kivant.core.machine.edits import set_value
from kivant.core.machine.ramps import take_limits
from kivant.core.motor.nameplate import nameplate
from kivant.core.motor.spare import USUAL_MARGIN
from kivant.core.path import Path, axis_path
from kivant.desktop.kit import figures
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.stations.ramp.stall_chart import StallChart

_NOTCHES = 200
_SLIDERS = (
    ("load.inertia_kgm2", "inertia at the rotor", " kgm²"),
    ("load.friction_torque_nm", "friction at the rotor", " Nm"),
    ("margin", "margin", ""),
)


class LoadSlider(QSlider):
    """One figure of the load, or the margin, dragged between 0 and its most; a drag is one edit."""

    def __init__(self, session: Session, path: Path, name: str, unit: str) -> None:
        super().__init__(Qt.Orientation.Horizontal)
        self.session, self.path, self.name, self.unit = session, path, name, unit
        self.value_label = QLabel()
        self.value_label.setFont(font("strong"))
        self.value_label.setMinimumWidth(96)
        self.most = 1.0
        self._merge = False
        self.setRange(0, _NOTCHES)
        self.setAccessibleName(name)
        self.valueChanged.connect(self._take)
        self.sliderReleased.connect(self._let_go)

    def _bounds(self, axis: Axis) -> tuple[float, float]:
        """Return what the ends of the slider stand for."""
        plate = nameplate(axis.motor)
        if self.path.key == "margin":
            return 1.0, 3.0
        if self.path.key == "inertia_kgm2":
            return 0.0, max(20 * plate.inertia_kgm2, axis.load.inertia_kgm2)
        return 0.0, max(0.5 * plate.holding_torque_nm, axis.load.friction_torque_nm)

    def show_axis(self, axis: Axis) -> None:
        """Show the figure of an axis."""
        value = self.path.look_up(axis) or (USUAL_MARGIN if self.path.key == "margin" else 0.0)
        low, high = self._bounds(axis)
        share = min(max((float(value) - low) / (high - low), 0.0), 1.0)
        self.blockSignals(True)
        if not self.isSliderDown():
            # Small figures matter as much as large ones: the slider goes with the root.
            self.setValue(round(_NOTCHES * math.sqrt(share)))
        self.blockSignals(False)
        self.value_label.setText(f"{figures.rough3(float(value))}{self.unit}")
        self.setEnabled(not self.session.running.active)

    def _take(self, notch: int) -> None:
        axis, index = self.session.choice.axis, self.session.choice.index
        if axis is None:
            return
        low, high = self._bounds(axis)
        value = float(f"{low + (high - low) * (notch / _NOTCHES) ** 2:.3g}")
        edit = set_value(axis_path(index) / self.path, value)
        if self.session.try_edit(edit, f"{self.name} of {axis.name}", merge=self._merge):
            self._merge = self.isSliderDown()

    def _let_go(self) -> None:
        self._merge = False


class StallFace(QWidget):
    """The map, and sliders under it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.chart = StallChart(session, self._drag)
        self.sliders = {key: LoadSlider(session, Path(key.split(".")), name, unit) for key, name, unit in _SLIDERS}
        grid = QGridLayout()
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(2)
        for line, slider in enumerate(self.sliders.values()):
            label = QLabel(slider.name)
            label.setFont(font("small"))
            label.setBuddy(slider)
            grid.addWidget(label, line, 0)
            grid.addWidget(slider, line, 1)
            grid.addWidget(slider.value_label, line, 2)
        grid.setColumnStretch(1, 1)
        self.told = QLabel()
        self.told.setTextFormat(Qt.TextFormat.PlainText)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addWidget(self.chart, 1)
        column.addWidget(self.told)
        column.addLayout(grid)

    def _drag(self, speed: float, rate: float, merge: bool) -> None:
        axis, index = self.session.choice.axis, self.session.choice.index
        if axis is None:
            return
        limits = replace(axis.limits, speed=speed, acceleration=rate, deceleration=rate)
        self.session.try_edit(take_limits(index, limits), f"ramp of {axis.name}", merge=merge)

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self.session.bench.tries.rest(map_only=True)

    def follow(self, axis: Axis) -> None:
        """Show the chosen axis as it is now, and ask for its map."""
        for slider in self.sliders.values():
            slider.show_axis(axis)
        self.session.bench.tries.wish_map(self.session.document.machine, self.session.choice.index)
        self.show_map()

    def show_map(self) -> None:
        """Show the map as far as it is known."""
        axis = self.session.choice.axis
        if axis is None:
            return
        self.chart.show_map(axis, self.session.bench.tries.map)
        limits = axis.limits
        fate = self.chart.fate(limits.speed, limits.acceleration)
        what = f"{figures.short(limits.speed)} {axis.unit}/s with {figures.short(limits.acceleration)} {axis.unit}/s²"
        found = self.session.bench.tries.map
        unknown = "too long to be simulated" if found is not None and found.done else "not known yet"
        self.told.setText(f"{what}: {fate or unknown}.")
