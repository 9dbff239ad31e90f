"""The page of a station: follows the chosen axis, and only while it is seen."""

from __future__ import annotations

from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QWidget

from kivant.core.machine import Axis
from kivant.core.path import Path
from kivant.desktop.state.session import Session


class StationPage(QWidget):
    """Calls `follow` with the chosen axis after each change of the machine, the choice or the looks.

    A run changes nothing of it but what can be edited, so that its beginning and end are all it is told of. Out of
    sight nothing is done: a page catches up when it is shown.
    """

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        for signal in (session.machine_changed, session.selection_changed, session.run_turned, session.theme_changed):
            signal.connect(self.refresh)

    def follow(self, axis: Axis | None) -> None:
        """Show an axis as it is now, None where the machine has none."""
        raise NotImplementedError

    def show_place(self, place: Path) -> None:
        """Show the part of the page in which a place of the machine is seen; most pages show all at once."""

    def refresh(self) -> None:
        """Show what there is now, if the page is seen."""
        if self.isVisible():
            self.follow(self.session.choice.axis)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.follow(self.session.choice.axis)
