"""The Sequence face: the ring of rows, the words as they are typed and copied, and the sequences side by side."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from kivant.core.machine import Axis
from kivant.desktop.state.session import Session
from kivant.desktop.stations.phases.comparison import Comparison
from kivant.desktop.stations.phases.face import Face
from kivant.desktop.stations.phases.plugs import Plugs
from kivant.desktop.stations.phases.sequence_ring import SequenceRing


class SequenceFace(Face):
    """What the coils are switched through."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.ring = SequenceRing(session)
        self.plugs = Plugs(session)
        self.comparison = Comparison(session)
        middle = QVBoxLayout()
        middle.setSpacing(2)
        middle.addWidget(self.ring, 1)
        middle.addWidget(self.plugs)
        side = QWidget()
        side.setFixedWidth(296)
        column = QVBoxLayout(side)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.comparison)
        column.addStretch(1)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(14)
        row.addLayout(middle, 1)
        row.addWidget(side)

    def follow(self, axis: Axis) -> None:
        """Show the sequence of an axis as it is now."""
        self.plugs.refresh()
        self.ring.update()
        self.comparison.follow(axis)
