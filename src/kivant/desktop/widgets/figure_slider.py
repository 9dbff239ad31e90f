"""A figure of the machine that is dragged: a slider between two ends, with the value in words."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import NamedTuple

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QLabel, QSlider

from kivant.core.machine import Axis
from kivant.core.machine.edits import set_value
from kivant.core.path import Path
from kivant.desktop.kit import figures
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session

_NOTCHES = 200


class Dragged(NamedTuple):
    """Where in the machine a figure stands, what it is now, and what the ends of its slider stand for."""

    place: Path
    value: float
    low: float
    high: float


class FigureSlider(QSlider):
    """One figure of the chosen axis; a drag is one edit.

    Parameters
    ----------
    session : Session
    name, unit : str
        What it is called, and what stands behind its value.
    find : callable
        Returns what is dragged of an axis, None where there is no such figure.
    """

    def __init__(self, session: Session, name: str, unit: str, find: Callable[[Axis], Dragged | None]) -> None:
        super().__init__(Qt.Orientation.Horizontal)
        self.session, self.name, self.unit, self._find = session, name, unit, find
        self.name_label, self.value_label = QLabel(name), QLabel()
        self.name_label.setFont(font("small"))
        self.name_label.setBuddy(self)
        self.value_label.setFont(font("strong"))
        self.value_label.setMinimumWidth(84)
        self._merge = False
        self.setRange(0, _NOTCHES)
        self.setAccessibleName(name)
        self.valueChanged.connect(self._take)
        self.sliderReleased.connect(self._let_go)

    def put_in(self, grid: QGridLayout, line: int) -> None:
        """Put name, slider and value into a row of a grid."""
        for column, part in enumerate((self.name_label, self, self.value_label)):
            grid.addWidget(part, line, column)

    def refresh(self) -> None:
        """Show the figure of the chosen axis."""
        axis = self.session.choice.axis
        found = self._find(axis) if axis is not None else None
        for part in (self, self.name_label, self.value_label):
            part.setVisible(found is not None)
        if found is None:
            return
        # Small figures matter as much as large ones: the slider goes with the root.
        share = math.sqrt(min(max((found.value - found.low) / (found.high - found.low), 0.0), 1.0))
        if not self.isSliderDown():
            self.blockSignals(True)
            self.setValue(round(_NOTCHES * share))
            self.blockSignals(False)
        self.value_label.setText(f"{figures.rough3(found.value)}{self.unit}")
        self.setEnabled(not self.session.running.active)

    def _take(self, notch: int) -> None:
        axis = self.session.choice.axis
        found = self._find(axis) if axis is not None else None
        if axis is None or found is None:
            return
        value = float(f"{found.low + (found.high - found.low) * (notch / _NOTCHES) ** 2:.3g}")
        if self.session.try_edit(set_value(found.place, value), f"{self.name} of {axis.name}", merge=self._merge):
            self._merge = self.isSliderDown()

    def _let_go(self) -> None:
        self._merge = False
