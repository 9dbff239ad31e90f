"""The chain: plates are doors and say what follows from an edit."""

from unittest import mock

from PySide6.QtCore import Qt

from kivant.core.machine.edits import typed
from kivant.core.path import Path
from kivant.desktop.frame.chain import PlateButton
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

    def test_what_shows_something_else_is_painted_anew_and_nothing_else(self):
        """An edit is felt at once: where many a picture would be painted over with itself, it would not be."""
        window, _station = self.station(TRAVEL)
        session, axis = window.session, Path.of("axes", 0)
        step = session.instant.axis_plan.train.instant
        for act, painted in (
            (lambda: session.edit(typed(axis / "limits" / "acceleration", "90"), "acceleration"), "Ramp Routine Run"),
            (lambda: session.edit(typed(axis / "travel" / 1 / "driven", "62"), "teeth"), "Travel Routine"),
            (lambda: session.edit(typed(axis / "motor" / "holding_torque_nm", "0.02"), "torque"), "Motor Routine"),
            (lambda: session.playhead.go(step(0)), "Phases"),
            (lambda: session.playhead.go(step(0) + 1e-9), ""),
        ):
            seen: set[str] = set()
            with mock.patch.object(PlateButton, "update", lambda plate, seen=seen: seen.add(plate.kind.title)):
                act()
                self.wait(lambda: not session.planning.busy and not session.turns.busy)
            self.assertEqual(seen, set(painted.split()))
