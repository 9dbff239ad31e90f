"""The chain at Travel: stages dragged, common values offered, what was sold, how exact, and which way it really goes."""

from unittest import mock

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog

from kivant.app.document.document import Document
from kivant.app.document.examples import load_example
from kivant.core.machine.edits import set_value
from kivant.core.path import axis_path
from kivant.core.travel.mechanics import WORN, Mechanics
from kivant.core.travel.sense import rotor_sense
from kivant.desktop.frame.axis_card import way_words
from kivant.files import project
from tests.desktop.painted import Painted
from tests.desktop.stations.base import TRAVEL, StationTest


class Chains(StationTest):
    def drag(self, card, to: QPoint, *, key: Qt.Key | None = None) -> None:
        begin = QPoint(card.width() // 2, 60)
        QTest.mousePress(card, Qt.MouseButton.LeftButton, pos=begin)
        for share in (0.1, 0.6, 1.0):
            QTest.mouseMove(card, begin + (to - begin) * share)
        if key is not None:
            QTest.keyClick(card, key)
        QTest.mouseRelease(card, Qt.MouseButton.LeftButton, pos=to)

    def test_stages_are_dragged(self):
        window, travel = self.station(TRAVEL)

        def teeth() -> list[int]:
            return [stage.driving for stage in window.session.document.machine.axes[0].travel]

        wide = travel.cards[1].width()
        for first, to, key, order in (
            (1, QPoint(2 * wide + 9, 60), None, [12, 10, 11]),
            (3, QPoint(-3 * wide, 70), None, [11, 12, 10]),
            (1, QPoint(wide // 2 + 20, 60), None, [11, 12, 10]),  # not past the next one
            (1, QPoint(9 * wide, 60), None, [12, 10, 11]),
            (1, QPoint(3 * wide, 60), Qt.Key.Key_Escape, [12, 10, 11]),
            (1, QPoint(3 * wide, 600), None, [12, 10, 11]),  # astray
        ):
            self.drag(travel.cards[first], to, key=key)
            self.assertEqual((teeth(), travel.drag.mark.isVisible()), (order, False), (first, to))
        while window.session.document.modified:
            window.session.bench.undo()
        self.assertEqual(teeth(), [10, 12, 11])
        window.session.choice.select(2)
        self.drag(travel.cards[1], QPoint(-400, 60))
        self.assertFalse(window.session.document.modified, "what makes a distance stays the last")

    def test_common_values_are_offered_and_any_other_is_taken(self):
        window, travel = self.station(TRAVEL, axis=2)
        field = travel.cards[1].fields[0]
        field.setFocus()
        field.selectAll()
        QTest.keyClicks(field, "9")
        popup = field.completer().popup()
        self.assertTrue(popup.isVisible())
        self.assertEqual(popup.model().index(0, 0).data(), "9.525 mm   3/8 in")
        QTest.keyClick(popup, Qt.Key.Key_Down)
        QTest.keyClick(popup, Qt.Key.Key_Return)
        self.assertEqual(str(window.session.document.machine.axes[2].travel[0].pitch), "9.525")
        self.type(field, "2.37")
        self.assertEqual(str(window.session.document.machine.axes[2].travel[0].pitch), "2.37")

    def test_what_was_sold_and_how_exact_it_has_to_be(self):
        window, travel = self.station(TRAVEL)
        session, row = window.session, travel.sold
        self.assertIn("a turn is 5.161 deg short, 100 turns 516.1 deg", row.drift.toolTip())
        for typed, kept in (
            ("32 : 1", "32"),
            ("1:30", "30"),
            ("not known", None),
            ("2511/82.5", None),
            ("2511/80", "2511/80"),
        ):
            self.type(row.sold, typed)
            self.assertEqual(session.document.machine.axes[0].sold, kept, typed)
        self.assertIn("too far", row.drift.toolTip())
        for typed in ("1:0", "-3", "1e400", "thirty"):
            self.type(row.sold, typed)
            self.assertIn("ratio", row.sold.explanation.text(), typed)
        self.type(row.tolerance, "0.001rev")
        self.assertIn("2.9219 steps", row.step.toolTip())
        self.type(row.tolerance, "0")
        self.assertIn("above 0", row.tolerance.explanation.text())
        self.type(row.tolerance, "0.1deg")
        self.assertIn("less than a step", row.step.toolTip())
        self.settle(window)
        self.assertIn("resolution-coarse", [finding.code for finding in session.planning.findings])
        session.choice.select(1)
        self.assertFalse(row.sold.isVisible(), "there is no gearbox")

    def test_the_tool_of_the_stand_in_is_made_as_wrong_as_is_typed(self):
        window, travel = self.station(TRAVEL, axis=3)
        tools, face = window.session.running.tools, travel.face("calibrate")
        travel.show_face("calibrate")
        self.assertFalse(face.tool.isVisible())
        face.bar.standin.use({axis.name: WORN[axis.unit] for axis in window.session.document.machine.axes})
        others = {name: pointer for name, pointer in tools.pointers.items() if name != "Tilt"}
        for word, typed, shown, said in (
            ("scale", "1.02", "1.02", ""), ("scale", "0,9", "1.02", "not a number"), ("scale", "9", "1.02", "at most 2"),
            ("play", "30arcmin", "0.5 deg", ""), ("play", "-1", "0.5 deg", "at least 0"), ("of", "1", "stage 1", ""),
            ("of", "Rotor", "rotor", ""), ("of", "shaft", "rotor", "not a shaft"), ("once a turn", "0.3", "0.3 deg", ""),
            ("scatter", "x", "0.02 deg", "not a position"), ("lost steps", "1 in 500", "1 in 500", ""),
            ("lost steps", "0", "1 in 500", "at least 1"), ("lost steps", "none", "none", ""),
        ):  # fmt: skip
            field = face.tool.fields[word]
            self.type(field, typed)
            self.assertIn(said, field.explanation.text() if said else "", typed)
            field.take_back()
            self.assertEqual(field.text(), shown, (word, typed))
        made = tools.mechanics["Tilt"]
        self.assertEqual((made.scale, made.backlash, made.periodic[0].shaft, made.lost_every), (1.02, 0.5, 0, None))
        self.assertIs(tools.pointers["Tilt"].mechanics, made)
        self.assertEqual({name: tools.pointers[name] for name in others}, others, "they stay where they are")

    def test_a_worn_machine_is_measured_and_cured_from_end_to_end(self):
        """All places are gone to and read off the pointer; applied, the same tool stands where it is told."""
        window, travel = self.station(TRAVEL, axis=3)
        session, face = window.session, travel.face("calibrate")
        for key, value in (
            ("speed", 720.0),
            ("acceleration", 9000.0),
            ("deceleration", 9000.0),
            ("min", None),
            ("max", None),
        ):
            session.edit(set_value(axis_path(3, "limits", key), value), "faster")
        travel.show_face("calibrate")
        face.bar.standin.use({"Tilt": Mechanics(scale=0.985, backlash=0.8, noise=0.004)})

        def read(count: int) -> list[float]:
            errors = []
            for _ in range(count):
                target = face.measuring.next(session.choice.axis)
                self.settle(window)
                face.go.click()
                self.wait(lambda: not session.running.active and face.read_off.isEnabled())
                face.read_off.click()
                errors.append(abs(face.measuring.read[-1].observed - float(target.position)))
            return errors

        self.assertGreater(max(read(10)), 5.0)
        face.row.use.click()
        known = session.document.machine.axes[3].calibration
        self.assertAlmostEqual(float(known.scale), 0.985, delta=2e-4)
        self.assertAlmostEqual(known.backlash, 0.8, delta=0.03)
        # Its pointer hung half the play behind as the counts began; the rotor stays where it is when a scale changes.
        for error in read(4):
            self.assertAlmostEqual(error, 0.4, delta=0.2 + 0.05)
        session.bench.undo()
        self.assertFalse(face.row.use.isEnabled(), "what was read with the calibration is of another kind")

    def test_each_stage_tells_ratio_resolution_and_sense(self):
        window, travel = self.station(TRAVEL)
        with Painted() as painted:
            travel.grab()
        for text in ("1 : 3.1, 1.21 deg a step", "1 : 9.3, 0.403 deg a step", "1 : 30.436, 0.123 deg a step"):
            self.assertIn(text, painted.texts)
        self.assertIn("0.40323 deg a step; forward it turns clockwise", travel.cards[2].toolTip())
        travel.cards[3].reverse.click()
        self.assertIn("forward it turns counter-clockwise", travel.cards[2].toolTip())
        travel.round.click()
        self.assertEqual(window.session.document.machine.axes[0].positive, "ccw")
        self.assertIn("forward it turns clockwise", travel.cards[2].toolTip())
        self.assertIn("forward turns the rotor clockwise", travel.sentence.text())
        window.session.choice.select(1)
        self.assertIn("One turn moves the tool 8 mm, one step 0.005 mm", travel.cards[1].toolTip())

    def test_an_axis_that_goes_the_other_way_is_told_and_turned_round(self):
        """Readings that fall are applied, too; a press then turns the chain round, and history has what was before."""
        rig, path = load_example(), self.folder / "rig.kivant"
        project.save(rig, path)
        window, travel = self.station(TRAVEL, document=Document.open(path))
        session, face = window.session, travel.face("calibrate")
        travel.show_face("calibrate")
        (self.folder / "read.csv").write_text(
            "position,approach,observed\n" + "".join(f"{p},{a},{-1.01 * p + 0.3 * a}\n" for p in (0, 90, 200) for a in (1, -1))
        )  # fmt: skip
        name = str(self.folder / "read.csv")
        with mock.patch.object(QFileDialog, "getOpenFileName", return_value=(name, "")):
            face.bar.load.click()
        self.assertIn("the tool goes the other way", face.verdict.text())
        face.row.use.click()
        axis = session.document.machine.axes[0]
        known = axis.calibration
        self.assertEqual((known.sense, float(known.scale), known.history), (-1, 1.01, None))
        self.settle(window)
        finding = next(f for f in session.planning.findings if f.code == "turns-the-other-way")
        window.sheets.findings.toggle()
        mend = next(mend for own, _jump, mend in window.sheets.findings.rows if own == finding)
        mend.click()
        turned = session.document.machine.axes[0]
        self.assertEqual((rotor_sense(turned), turned.calibration.sense), (-rotor_sense(axis), None))
        QGuiApplication.clipboard().setText("0,1,0\n90,1,90.9\n200,1,202")
        face.bar.paste.click()
        face.row.use.click()
        again = session.document.machine.axes[0].calibration
        self.assertEqual([float(one.scale) for one in again.history], [1.01])
        face.row.earlier.menu().aboutToShow.emit()
        self.assertIn("play 0.6 deg, 20", face.row.earlier.menu().actions()[0].text())
        face.row.earlier.menu().actions()[0].trigger()
        back = session.document.machine.axes[0].calibration
        self.assertEqual((float(back.scale), back.backlash, len(back.history)), (1.01, 0.6, 2))
        self.assertEqual(len(face.measuring.before), 3)
        session.bench.measurings.close()
        _other, travel = self.station(TRAVEL, document=Document.open(path))
        self.assertEqual(len(travel.face("calibrate").measuring.before), 3, "readings are there again")
        self.assertEqual(project.loads(project.dumps(session.document.machine)), session.document.machine)

    def test_the_way_of_an_axis_that_wraps_is_seen_before_it_is_gone(self):
        window = self.open()
        session = window.session
        session.choice.choose_routine(None)
        session.bench.set_target("Wheel", "300deg")
        card = window.rail.cards[0]
        for wrap, end, said in (
            (None, 300, "300 deg forward to 300"), ("shortest", -60, "60 deg back to −60"),
            ("positive", 300, "300 deg forward to 300"), ("negative", -60, "60 deg back to −60"),
        ):  # fmt: skip
            session.edit(set_value(axis_path(0, "limits", "wrap"), wrap), "way")
            self.settle(window)
            self.assertIsNone(session.choice.routine_name, "the move stays chosen")
            session.playhead.go(0.0)
            begin, target = session.instant.way_of(0)
            self.assertAlmostEqual(begin, 0.0)
            self.assertAlmostEqual(target, end)
            self.assertIn(said, way_words(card.axis, (begin, target)))
            with Painted() as painted:
                card.grab()
            self.assertEqual(painted.cut, [])
            self.assertIn(said, card.toolTip())
        session.playhead.go(session.planning.duration_s)
        self.assertIsNone(session.instant.way_of(0))
        self.assertIsNone(session.instant.way_of(1))
