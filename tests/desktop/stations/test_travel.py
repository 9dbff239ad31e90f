"""The Travel station: positions become steps, stages are worked on, and what is drawn turns."""

from fractions import Fraction
from pathlib import Path
from unittest import mock

from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog

from kivant.app.document.document import Document
from kivant.app.document.examples import load_example
from kivant.core.machine import Gear, Ratio, edits
from kivant.core.machine.axes import delete_axis
from kivant.core.path import axis_path
from kivant.core.travel.conversion import steps_per_unit
from kivant.core.travel.mechanics import WORN
from kivant.core.travel.shafts import shaft_turns
from tests.desktop.painted import Painted
from tests.desktop.stations.base import TRAVEL, StationTest


class Travels(StationTest):
    def test_positions_become_steps_and_steps_positions(self):
        window, travel = self.station(TRAVEL)
        self.type(travel.face("convert").position, "2.5rev")
        self.assertEqual(travel.face("convert").steps.text(), "7304.72727273 steps")
        self.assertIn(
            "nearest step 7 305 reaches 900.0336".replace("7 305", "7\u2009305"), travel.face("convert").found.text()
        )
        self.assertIn("0.033602 deg too far; 7\u2009304 is 0.089606 deg short", travel.face("convert").found.text())
        self.type(travel.face("convert").steps, "-96")
        self.assertEqual(travel.face("convert").position.text(), "−11.8279569892 deg")
        face = travel.face("convert")
        self.assertIn("10 rpm at the tool = 304.36 rotor rpm = 486.98 steps/s = 243.49 full steps/s", face.forms.text())
        for typed, shown in (
            ("4s/rev", "90 deg/s"),
            ("304.363636 rotor rpm", "59.9999999"),
            ("-2ms", "−61.6039426523"),
        ):
            self.type(face.speed, typed)
            self.assertIn(shown, face.speed.text())
        self.assertIn("2 ms a step = 5.8438 s a turn", face.forms.text())
        self.type(face.speed, "0")
        self.assertIn("Nothing moves at a speed of 0.", face.speed.explanation.text())
        self.assertIn("2 ms a step", face.forms.text())
        self.type(travel.face("convert").position, "ten")
        self.assertTrue(travel.face("convert").position.property("wrong"))
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

    def test_a_card_is_of_its_axis_wherever_that_stands(self):
        """The last axis is shown all along; only its place changes."""
        window, travel = self.station(TRAVEL)
        session = window.session
        session.choice.select(3)
        session.edit(delete_axis(0), "delete Wheel")
        self.assertEqual((session.choice.index, session.choice.axis.name), (2, "Tilt"))
        travel.cards[1].reverse.click()
        self.assertEqual([axis.travel[0].reverses for axis in session.document.machine.axes], [None, None, True])

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


class Sliding(StationTest):
    def test_scales_are_dragged_stepped_and_zoomed(self):
        _window, travel = self.station(TRAVEL)
        face = travel.face("convert")
        scales = face.scales
        begin = float(scales.found.steps_exact)
        middle = QPoint(scales.width() // 2, scales.height() // 2)
        QTest.mousePress(scales, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, middle)
        QTest.mouseMove(scales, middle - QPoint(200, 0))
        QTest.mouseRelease(scales, Qt.MouseButton.LeftButton)
        gone = 200 / (scales.width() - 80) * 24
        self.assertAlmostEqual(float(scales.found.steps_exact) - begin, gone, delta=0.2)
        self.assertEqual(float(scales.found.position), float(face.position.text().split()[0]))
        for key, steps in ((Qt.Key.Key_Right, 1), (Qt.Key.Key_Right, 2), (Qt.Key.Key_Left, 1)):
            before = scales.found.steps
            QTest.keyClick(scales, key)
            self.assertEqual((abs(scales.found.steps - before), scales.found.error), (1, 0), steps)
        for _ in range(40):
            QTest.keyClick(scales, Qt.Key.Key_Minus)
        self.assertGreater(scales.span, 1e4)
        with Painted() as painted:
            scales.grab()
        self.assertEqual(painted.cut, [])
        for _ in range(80):
            QTest.keyClick(scales, Qt.Key.Key_Plus)
        self.assertEqual(scales.span, 6.0)


class Faces(StationTest):
    def test_places_are_divided_listed_and_made_a_routine(self):
        window, travel = self.station(TRAVEL)
        session = window.session
        travel.show_face("divide")
        divide = travel.face("divide")
        self.type(divide.count, "7")
        self.assertEqual((divide.table.rowCount(), divide.table.item(1, 2).text()), (7, "417"))
        self.assertIn("after any number of rounds", divide.told.text())
        for text, said in (("0", "0 parts cannot be made"), ("1.5", "not a whole number"), ("x", "“x” is not")):
            self.type(divide.count, text)
            self.assertIn(said, divide.count.explanation.text())
        self.type(divide.listed, "0 90deg 0.5rev")
        self.assertEqual([place.steps for place in divide.places], [0, 730, 1461])
        self.type(divide.listed, "0 ten")
        self.assertIn("“ten” is not a position", divide.listed.explanation.text())
        divide.copy.click()
        self.assertIn("1\t90\t730\t-0.05824\n", QGuiApplication.clipboard().text())
        divide.save_to(self.folder / "places.csv")
        self.assertTrue(
            (self.folder / "places.csv").read_text().startswith("place,position,step,error\n0,0,0,0\n1,90,730")
        )
        divide.save_to(self.folder / "nowhere" / "places.csv")
        self.assertIn("cannot be saved", window.notice.text.text())
        divide.make.click()
        made = session.document.machine.routines[-1]
        self.assertEqual((made.name, len(made.blocks)), ("Wheel: 3 places", 6))
        session.bench.undo()
        self.assertEqual(session.document.machine, load_example())

    def test_the_gearbox_that_was_sold_is_replaced_by_the_true_one(self):
        rig = load_example()
        sold = replace(rig, axes=(replace(rig.axes[0], travel=(Ratio(ratio="30", reverses=True),)), *rig.axes[1:]))
        window, travel = self.station(TRAVEL, document=Document(sold))
        travel.show_face("calibrate")
        face, true = travel.face("calibrate"), 31 / 10 * 36 / 12 * 36 / 11
        for k in range(12):
            target = face.measuring.next(window.session.choice.axis)
            self.type(face.reading, f"{30 / true * float(target.position) + 0.002 * (k % 5 - 2):.5f}")
        self.assertIn("true ratio 1:30.43", face.verdict.text())
        for stages in (9, 1, 4, 3):
            face.row.stages.setValue(stages)
            face.row.trains.menu().aboutToShow.emit()
            first = face.row.trains.menu().actions()[0]
            self.assertEqual(first.text().count(" × ") + 1 if first.isEnabled() else 0, stages if stages > 1 else 0)
        first.trigger()
        axis = window.session.document.machine.axes[0]
        self.assertEqual({stage.stage for stage in axis.travel}, {"gear"})
        self.assertAlmostEqual(float(steps_per_unit(axis)) * 360 / 96, true, delta=0.01)
        self.assertTrue(axis.travel[0].reverses)
        window.session.bench.undo()
        self.assertEqual(window.session.document.machine, sold)
        for k in range(12):
            target = face.measuring.next(window.session.choice.axis)
            self.type(face.reading, f"{30 / true * float(target.position) + 0.002 * (k % 5 - 2):.5f}")
        face.row.trains.menu().aboutToShow.emit()
        plain = next(a for a in face.row.trains.menu().actions() if a.text().startswith("the plain ratio 1:"))
        plain.trigger()
        ratio = window.session.document.machine.axes[0].travel[0]
        self.assertEqual((ratio.stage, ratio.reverses), ("ratio", True))
        self.assertAlmostEqual(float(Fraction(ratio.ratio)), true, delta=0.01)

    def test_the_pointer_of_a_worn_machine_is_read_off(self):
        """The stand-in drives tools that are a little wrong, as chosen or as in a file; readings come from its pointer."""
        window, travel = self.station(TRAVEL, axis=3)
        session, face = window.session, travel.face("calibrate")
        travel.show_face("calibrate")
        self.assertFalse(face.pointer.isVisible())
        face.bar.standin.menu().aboutToShow.emit()
        by_text = {action.text(): action for action in face.bar.standin.menu().actions()}
        by_text["Drives a worn machine"].trigger()
        target = face.measuring.next(session.choice.axis)
        face.go.click()
        self.wait(lambda: not session.running.active)
        self.assertTrue(face.pointer.isVisible())
        expected = WORN["deg"].scale * float(target.position) - target.approach * WORN["deg"].backlash / 2
        self.assertAlmostEqual(face.pointer.value, expected, delta=0.12 + 0.09 + 0.1)
        shown = face.pointer.value
        face.read_off.click()
        self.assertAlmostEqual(face.measuring.read[0].observed, shown, places=3)
        self.assertFalse(face.read_off.isEnabled(), "it stands where the next one is not read")
        folder = Path(self.folder)
        for text, said in (
            ('{"Tilt": {"scale": 9}}', "Tilt.scale"),
            ('{"Tilt": {"backlush": 1}}', "The key “backlush” is unknown"),
            ("[]", "not a list of mechanics"),
            ('{"Tilt": {"backlash": 2}}', "a little wrong"),
        ):
            (folder / "worn.json").write_text(text)
            with mock.patch.object(QFileDialog, "getOpenFileName", return_value=(str(folder / "worn.json"), "")):
                by_text["Drives a machine as in a file…"].trigger()
            self.assertIn(said, window.notice.text.text())
        self.assertEqual(session.running.tools.mechanics["Tilt"].backlash, 2.0)
        self.assertFalse(face.pointer.isVisible(), "another machine")
        by_text["Only counts"].trigger()
        self.assertEqual(session.running.tools.pointers, {})

    def test_an_axis_is_measured_on_the_stand_in_and_calibrated(self):
        """The axis goes where it is asked; readings of a machine that is a little wrong cure it, and undo takes it back."""
        window, travel = self.station(TRAVEL, axis=3)
        session = window.session
        travel.show_face("calibrate")
        face = travel.face("calibrate")
        self.assertIn("At least three readings at two places", face.verdict.text())
        target = face.measuring.next(session.choice.axis)
        face.go.click()
        self.wait(lambda: not session.running.active)
        self.assertEqual(session.running.status.phase, "done", session.running.status)
        self.assertAlmostEqual(float(session.running.standing.places["Tilt"]), float(target.position), delta=0.18)
        for _ in range(12):
            target = face.measuring.next(session.choice.axis)
            self.type(face.reading, f"{0.98 * float(target.position) - 0.25 * target.approach:.4f}deg")
        self.assertRegex(face.verdict.text(), "one turn is 7.20* ± .* deg short: true ratio 1:5.102")
        self.type(face.reading, "lots")
        self.assertIn("not a position", face.reading.explanation.text())
        self.assertEqual(len(face.measuring.read), 12)
        face.row.use.click()
        calibration = session.document.machine.axes[3].calibration
        self.assertAlmostEqual(float(calibration.scale), 0.98, places=4)
        self.assertAlmostEqual(calibration.backlash, 0.5, places=3)
        self.assertEqual(face.measuring.read, [])
        self.assertEqual((len(face.measuring.before), face.residuals.toolTip()), (12, ""))
        for _ in range(2):
            target = face.measuring.next(session.choice.axis)
            self.type(face.reading, f"{float(target.position) + 0.03 * target.approach:.4f}deg")
        self.assertRegex(face.residuals.toolTip(), r"up to ±0\.86 before the calibration, ±0\.03 with it")
        with Painted() as painted:
            face.residuals.grab()
        self.assertEqual(painted.cut, [])
        self.assertIn("now within ±0.03 deg", painted.texts)
        self.wait(lambda: not session.planning.busy)
        self.assertTrue(session.planning.plan.axes[3].has_play)
        face.row.forget.click()
        self.assertIsNone(session.document.machine.axes[3].calibration)
        for _ in range(2):
            session.bench.undo()
        self.assertEqual(session.document.machine, load_example())
        self.assertIn("taken with another chain or calibration", face.verdict.text())
        self.assertFalse(face.row.use.isEnabled())
        self.type(face.reading, "3")
        self.assertIn("Start over", face.reading.explanation.text())
        self.assertEqual(len(face.measuring.read), 2, "nothing is lost, nothing is mixed")
        face.bar.anew.click()
        QGuiApplication.clipboard().setText("0,1,0\n10,-1,9.9\n20,1,19.5")
        face.bar.paste.click()
        self.assertEqual(len(face.measuring.read), 3)
        QGuiApplication.clipboard().setText("nothing")
        face.bar.paste.click()
        self.assertIn("Expected three fields", window.notice.text.text())
        self.type(face.place, "400")
        self.assertIn("does not go to 400", face.place.explanation.text())
        for bounds in (("max", "3"), ("min", "-3")), (("max", "2.9"), ("min", "2.8")):
            for key, value in bounds:
                session.try_edit(edits.typed(axis_path(3, "limits", key), value), "limit")
            self.assertLessEqual(abs(face.measuring.next(session.choice.axis).position), 3, "where it goes now")
            face.side.click()  # limits closer together than a step leave no place to read at
        for button in (face.bar.back, face.side, face.bar.anew):
            button.click()
        self.assertEqual(face.measuring.read, [])
