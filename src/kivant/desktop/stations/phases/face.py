"""What every face of the Phases station is."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget

from kivant.core.machine import Axis
from kivant.desktop.state.session import Session


class Face(QWidget):
    """One face; ``beside_rotor``: the rotor stays beside it; ``with_lines``: the lines around the playhead below."""

    beside_rotor = True
    with_lines = True

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session

    def follow(self, axis: Axis) -> None:
        """Show an axis as it is now."""
        raise NotImplementedError
