"""The Travel station: positions become steps, stages are worked on, and what is drawn turns."""

from dataclasses import replace

from kivant.app.document.examples import load_example
from kivant.core.machine import Gear, Ratio
from kivant.core.travel.shafts import shaft_turns
from tests.desktop.stations.base import TRAVEL, StationTest


class Travels(StationTest):
    def test_positions_become_steps_and_steps_positions(self):
        window, travel = self.station(TRAVEL)
        self.type(travel.position, "2.5rev")
        self.assertEqual(travel.steps.text(), "7304.72727273 steps")
        self.assertIn("nearest step 7 305 reaches 900.0336".replace("7 305", "7\u2009305"), travel.found.text())
        self.type(travel.steps, "-96")
        self.assertEqual(travel.position.text(), "−11.8279569892 deg")
        self.type(travel.position, "ten")
        self.assertTrue(travel.position.property("wrong"))
        self.assertFalse(window.session.document.modified)

    def test_stages_are_added_changed_moved_and_taken_out(self):
        """Every change of the chain is an edit; what no axis can have is refused with the reason."""
        window, travel = self.station(TRAVEL)
        session = window.session
        travel.adding["gear"].click()
        self.assertEqual(len(session.document.machine.axes[0].travel), 4)
        self.assertIn("16.233 steps/deg", travel.sentence.text())
        travel.cards[4].earlier.click()
        self.assertEqual(session.document.machine.axes[0].travel[2].driven, 40)
        travel.cards[3].remove.click()
        self.assertEqual(len(travel.cards), 5)
        self.type(travel.cards[1].fields[0], "0")
        self.assertIn("at least 1", travel.cards[1].fields[0].explanation.text())
        travel.cards[1].fields[0].take_back()
        self.type(travel.cards[0].field, "200")
        self.assertEqual(session.document.machine.axes[0].motor.full_steps_per_rev, 200)
        for _ in range(4):
            session.bench.undo()
        self.assertFalse(session.document.modified)
        session.choice.select(2)
        for kind in ("drum", "rack", "screw"):
            travel.swap.menu().aboutToShow.emit()
            next(a for a in travel.swap.menu().actions() if a.text() == kind).trigger()
            self.assertEqual(session.document.machine.axes[2].travel[-1].stage, kind)
        self.assertEqual(session.document.machine.axes[2].travel[-1].stage, "screw")
        self.type(travel.cards[1].fields[0], "0.2in")
        self.assertIn("5.08 mm", travel.cards[1].fields[0].text())

    def test_the_drawn_parts_turn_as_the_axis_does(self):
        """Rims that mesh go equally far and against each other; the tool turns as its dial, a belt as far as its axis."""
        machine = load_example()
        gears = (Gear(driving=9, driven=40, reverses=True), Ratio(ratio="13.73"), Gear(driving=50, driven=20))
        reach = replace(machine.axes[2], travel=(*gears, *machine.axes[2].travel))
        for axis in (*machine.axes, reach, replace(machine.axes[0], positive="ccw")):
            position = 217.3
            shafts = shaft_turns(axis, position)
            turning = [stage for stage in axis.travel if isinstance(stage, Gear | Ratio)]
            self.assertEqual(len(shafts), len(turning) + 1)
            for stage, before, after in zip(turning, shafts, shafts[1:], strict=False):
                if isinstance(stage, Gear):
                    sense = -1 if stage.reverses else 1
                    self.assertAlmostEqual(before * stage.driving, sense * after * stage.driven)
                else:
                    self.assertAlmostEqual(before, after * 13.73)
            per_turn = {"Lift": 8.0, "Reach": 40.0}.get(axis.name, 360.0 if axis.positive == "cw" else -360.0)
            self.assertAlmostEqual(shafts[-1] * per_turn, position)

    def test_scrubbing_moves_every_part(self):
        for axis in range(4):
            window, travel = self.station(TRAVEL, axis)
            window.session.playhead.go(0.9)
            before = [card.grab().toImage() for card in travel.cards]
            window.session.playhead.go(1.0)
            for card, old in zip(travel.cards, before, strict=True):
                self.assertEqual(card.grab().toImage() != old, axis > 0, "the wheel rests in the first block")
