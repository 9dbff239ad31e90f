"""The pages of the stations, one over the other: each is made when it is first asked for."""

from __future__ import annotations

from PySide6.QtWidgets import QStackedWidget, QWidget

from kivant.desktop.state.session import Session
from kivant.desktop.stations import STATIONS


class Pages(QStackedWidget):
    """A stack of pages by the keys of their stations; a window starts with the first one only."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._made: dict[str, QWidget] = {}

    def __getitem__(self, key: str) -> QWidget:
        if key not in self._made:
            self._made[key] = STATIONS[key].page(self._session)
            self.addWidget(self._made[key])
        return self._made[key]

    def show_page(self, key: str) -> None:
        """Show the page of a station."""
        self.setCurrentWidget(self[key])
