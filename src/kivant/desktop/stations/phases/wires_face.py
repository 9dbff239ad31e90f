"""The Wires face: cords to be replugged; all orders judged, or the polarity of each line."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from kivant.core.drive.drivers import driver_kind
from kivant.core.drive.wiring import ORDERS
from kivant.core.machine import Axis
from kivant.core.path import Path
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.stations.phases.cords import Cords
from kivant.desktop.stations.phases.face import Face
from kivant.desktop.stations.phases.orders import Orders
from kivant.desktop.stations.phases.polarity import Polarities
from kivant.desktop.widgets.word_choice import WordChoice

OUTPUTS = {
    None: "not known",
    "sink": "to ground (taps to the supply)",
    "source": "to the supply (taps to ground)",
    "bridge": "both ways (a bridge for each coil)",
}
LEVELS = {"high": "high", "low": "low"}


class WiresFace(Face):
    """Where each line goes, and what the motor does with it."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.cords = Cords(session)
        self.orders = Orders(session)
        self.polarities = Polarities(session)
        self.active = WordChoice(session, Path.of("driver", "active"), "level that switches a coil on", LEVELS)
        self.outputs = WordChoice(session, Path.of("driver", "outputs"), "what the outputs do", OUTPUTS)
        self.reason = QLabel()
        self.reason.setFont(font("strong"))
        self.reason.setWordWrap(True)
        self.reason.setMinimumHeight(38)
        self.reason.setTextFormat(Qt.TextFormat.PlainText)
        self.orders.told.connect(self.reason.setText)
        self._coils = QWidget()
        words = QHBoxLayout()
        words.setSpacing(6)
        for text, choice in (("coils on at", self.active), ("outputs switch", self.outputs)):
            label = QLabel(text)
            label.setFont(font("small"))
            words.addWidget(label)
            words.addWidget(choice)
        words.addStretch(1)
        right = QVBoxLayout(self._coils)
        right.setContentsMargins(0, 0, 0, 0)
        right.setSpacing(4)
        right.addWidget(self.orders, 1)
        right.addWidget(self.reason)
        right.addLayout(words)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(18)
        row.addWidget(self.cords, 10)
        row.addWidget(self._coils, 13)
        row.addWidget(self.polarities, 13)

    def follow(self, axis: Axis) -> None:
        """Show the wiring of an axis as it is now."""
        switched = driver_kind(axis.driver).rows(axis.driver) is not None
        self._coils.setVisible(switched)
        self.polarities.setVisible(not switched)
        self.cords.update()
        if switched:
            self.active.refresh()
            self.outputs.refresh()
            self.orders.look_at(ORDERS.index(self.orders.now()))
        else:
            self.polarities.follow(axis)
