"""The stall map of the chosen axis, with what can be dragged to see it change: the ramp, the load and the margin."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtGui import QHideEvent
from PySide6.QtWidgets import QGridLayout, QLabel, QVBoxLayout, QWidget

from kivant.core.machine import Axis
from kivant.core.machine.parts import shape_of
from kivant.core.machine.ramps import take_limits
from kivant.core.motor.nameplate import nameplate
from kivant.core.motor.spare import USUAL_MARGIN
from kivant.core.path import Path, axis_path
from kivant.desktop.kit import figures
from kivant.desktop.state.session import Session
from kivant.desktop.stations.ramp.stall_chart import StallChart
from kivant.desktop.widgets.figure_slider import Dragged, FigureSlider

_MOST_MARGIN = 3.0


class StallFace(QWidget):
    """The map, and sliders under it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.chart = StallChart(session, self._drag)
        self.sliders = {
            "load.inertia_kgm2": FigureSlider(session, "inertia at the rotor", " kgm²", self._inertia),
            "load.friction_torque_nm": FigureSlider(session, "friction at the rotor", " Nm", self._friction),
            "margin": FigureSlider(session, "margin", "", self._margin),
        }
        grid = QGridLayout()
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(2)
        for line, slider in enumerate(self.sliders.values()):
            slider.put_in(grid, line)
        grid.setColumnStretch(1, 1)
        self.told = QLabel()
        self.told.setTextFormat(Qt.TextFormat.PlainText)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addWidget(self.chart, 1)
        column.addWidget(self.told)
        column.addLayout(grid)

    def _place(self, *keys: str) -> Path:
        return axis_path(self.session.choice.index, *keys)

    def _inertia(self, axis: Axis) -> Dragged:
        own = axis.load.inertia_kgm2
        return Dragged(self._place("load", "inertia_kgm2"), own, 0.0, max(20 * nameplate(axis.motor).inertia_kgm2, own))

    def _friction(self, axis: Axis) -> Dragged:
        own, most = axis.load.friction_torque_nm, 0.5 * nameplate(axis.motor).holding_torque_nm
        return Dragged(self._place("load", "friction_torque_nm"), own, 0.0, max(most, own))

    def _margin(self, axis: Axis) -> Dragged:
        own = axis.margin or USUAL_MARGIN
        return Dragged(self._place("margin"), own, 1.0, max(_MOST_MARGIN, own))

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
            slider.refresh()
        self.session.bench.tries.wish_map(self.session.document.machine, self.session.choice.index)
        self.show_map()

    def show_map(self) -> None:
        """Show the map as far as it is known."""
        axis = self.session.choice.axis
        if axis is None:
            return
        fault = self.session.bench.tries.map_fault
        self.chart.show_map(axis, self.session.bench.tries.map, fault.said if fault else "")
        limits = axis.limits
        fate = self.chart.fate(limits.speed, limits.acceleration)
        what = f"{figures.short(limits.speed)} {axis.unit}/s with {figures.short(limits.acceleration)} {axis.unit}/s²"
        found = self.session.bench.tries.map
        unknown = "too long to be simulated" if found is not None and found.done else "not known"
        own = self.session.bench.tries.now.candidates.get(shape_of(limits))
        distance = f"{figures.plain(float(self.session.trials.distance(axis)))} {axis.unit}"
        does = "" if own is None else "follows" if own.motion.follows else "slips"
        self.told.setText(f"{what}: {fate or unknown}" + (f"; over {distance} it {does}." if does else "."))
