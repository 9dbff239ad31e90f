"""What every test of a station needs: a window at that station."""

from __future__ import annotations

from kivant.app.document.document import Document
from kivant.desktop.stations import STATIONS
from tests.desktop.base import WindowTest

MOTOR, PHASES, TRAVEL, RAMP, ROUTINE, RUN = STATIONS


class StationTest(WindowTest):
    def station(self, key: str, axis: int = 0, document: Document | None = None):
        """Open a window at a station and axis; return both."""
        window = self.open(document)
        window.session.choice.select(axis)
        window.show_station(key)
        self.settle(window)
        return window, window.pages[key]
