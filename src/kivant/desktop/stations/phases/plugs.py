"""The order in which the outputs of a coil driver are plugged, to be typed, and what the motor does with it."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QWidget

from kivant.core.drive.drivers import driver_kind
from kivant.core.drive.wiring import ORDERS
from kivant.core.path import Path
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.widgets.axis_field import AxisField

_DOES = {1: "turns forward", -1: "turns the other way", 0: "only shudders"}


class _PlugsField(AxisField):
    """The ends that outputs A, B, C, D reach; the standard order where the file says nothing."""

    def _shown(self) -> str:
        value = self.value()
        return value if isinstance(value, str) else ORDERS[0]


class Plugs(QWidget):
    """Outputs, ends, and the verdict."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.field = _PlugsField(session, Path.of("driver", "wires"), "order of the plugs")
        self.field.setFixedWidth(64)
        self.field.setToolTip("The end of the winding that each output reaches: swap two letters for two plugs.")
        self.verdict = QLabel()
        self.verdict.setTextFormat(Qt.TextFormat.PlainText)
        self.verdict.setFont(font("small"))
        title = QLabel("outputs A B C D on ends")
        title.setFont(font("small"))
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addStretch(1)
        row.addWidget(title)
        row.addWidget(self.field)
        row.addWidget(self.verdict)
        row.addStretch(1)

    def refresh(self) -> None:
        """Show the order as it is now."""
        self.field.refresh()
        axis = self.session.choice.axis
        if axis is not None:
            self.verdict.setText(_DOES[driver_kind(axis.driver).sense(axis.driver)])
