"""The Pulses face: what the driver's lines do for a step, to scale, with the times that they need to type."""

from __future__ import annotations

from PySide6.QtWidgets import QGridLayout, QLabel, QVBoxLayout

from kivant.core.machine import Axis
from kivant.core.path import Path
from kivant.desktop.state.session import Session
from kivant.desktop.stations.phases.face import Face
from kivant.desktop.stations.phases.pulse_timing import PulseDrawing
from kivant.desktop.widgets.axis_field import AxisField

_TIMES = (
    ("pulse_high_us", "pulse high"),
    ("pulse_low_us", "pulse low"),
    ("direction_setup_us", "direction set-up"),
    ("direction_hold_us", "direction hold"),
    ("enable_lead_us", "enable lead"),
)


class PulsesFace(Face):
    """The drawing with its times."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.drawing = PulseDrawing(session)
        self.fields = {
            key: AxisField(session, Path.of("driver", key), name, lambda _axis: " µs") for key, name in _TIMES
        }
        grid = QGridLayout()
        grid.setVerticalSpacing(3)
        grid.setColumnStretch(1, 1)
        for line, (key, name) in enumerate(_TIMES):
            grid.addWidget(QLabel(name), line, 0)
            grid.addWidget(self.fields[key], line, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.drawing, 1)
        column.addLayout(grid)

    def follow(self, axis: Axis) -> None:
        """Show the times of an axis as they are now."""
        for field in self.fields.values():
            field.refresh()
        self.drawing.update()
