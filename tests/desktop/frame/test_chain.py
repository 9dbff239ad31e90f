"""The chain: plates are doors and say what follows from an edit."""

from PySide6.QtCore import Qt

from kivant.desktop.stations import STATIONS
from tests.desktop.stations.base import RUN, TRAVEL, StationTest


class Chain(StationTest):
    def test_plates_are_doors_and_say_what_follows_from_an_edit(self):
        """Alt and a digit opens a station; a changed link flashes what follows from it, and nothing before it."""
        window, _station = self.station(RUN)
        chain = window.head.chain.plates
        plates = list(chain.values())
        for number in (0, 2, 1, 5, 4, 3):
            self.press(window, Qt.Key(Qt.Key.Key_1 + number), Qt.KeyboardModifier.AltModifier)
            key = list(STATIONS)[number]
            self.assertEqual((window.page, chain[key].isChecked()), (window.pages[key], True))
            window.run_page.lanes.setFocus()
        self.assertEqual(
            [p.figure for p in plates],
            ["580 rpm", "half, 8 rows", "8.1164 steps/deg", "60 deg/s", "17.37 s", "4 axes, 17.37 s"],
        )
        window.show_station(TRAVEL)
        field = window.pages[TRAVEL].cards[1].fields[1]
        self.type(field, "62")
        self.assertEqual([p.figure for p in plates[:4]], ["580 rpm", "half, 8 rows", "16.233 steps/deg", "60 deg/s"])
        self.assertEqual([p.flashing for p in plates[:4]], [False, False, True, False])
        window.session.choice.select(3)
        self.assertIn("2 to look at", plates[1].toolTip())
