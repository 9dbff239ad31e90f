"""The faces of the Phases station: cords dragged, windings found, symptoms told, rows held, supplies and lines set."""

import os
from unittest import mock

from msgspec.structs import replace
from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from kivant.app.document.document import Document
from kivant.app.document.examples import load_example
from kivant.core.drive.wiring import ORDERS
from kivant.core.machine.lines import Use
from kivant.core.path import Path
from tests.desktop.stations.base import PHASES, StationTest
from tests.machines import coil_axis, machine, move

RIG = load_example()


class FaceTest(StationTest):
    def face(self, key: str, axis: int = 0, document: Document | None = None):
        """Open the Phases station at a face; return window, session and face."""
        window, phases = self.station(PHASES, axis, document)
        phases.show_face(key)
        self.settle(window)
        self.assertTrue(phases.face(key).isVisible())
        return window, window.session, phases.face(key)

    def empty(self, field) -> None:
        """Clear a field as a hand would."""
        field.setFocus()
        field.selectAll()
        QTest.keyClick(field, Qt.Key.Key_Delete)
        QTest.keyClick(field, Qt.Key.Key_Return)
        self.clear_away()

    def drag(self, widget, begin: QPointF, end: QPointF) -> None:
        """Press at one point, move to another, and let go there."""
        left, none = Qt.MouseButton.LeftButton, Qt.MouseButton.NoButton
        for kind, at, button, buttons in (
            (QEvent.Type.MouseButtonPress, begin, left, left),
            (QEvent.Type.MouseMove, (begin + end) * 0.5, none, left),
            (QEvent.Type.MouseMove, end, none, left),
            (QEvent.Type.MouseButtonRelease, end, left, none),
        ):
            event = QMouseEvent(kind, at, widget.mapToGlobal(at), button, buttons, Qt.KeyboardModifier.NoModifier)
            QApplication.sendEvent(widget, event)
        self.app.processEvents()


class Wires(FaceTest):
    def test_cords_are_dragged(self):
        """An end goes to another socket and what was there takes its place; rotor and verdict follow; undo."""
        window, session, wires = self.face("wires")
        cords, driver = wires.cords, lambda: session.document.machine.axes[0].driver
        before = window.page.rotor.state()
        session.playhead.go(session.planning.plan.axes[0].train.instant(2))
        ends = cords.places.ends
        self.drag(cords, ends["B"], ends["C"])
        self.assertEqual(driver().wires, "ACBD")
        self.assertIn("only shudders: from row", wires.reason.text())
        self.assertNotEqual(window.page.rotor.state().electrical_deg, before.electrical_deg)
        lines = cords.places.lines
        self.drag(cords, lines["P0"], lines["P14"])
        self.assertEqual(driver().lines.A, "P14")
        lines = cords.places.lines
        self.drag(cords, lines["P1"], lines["P2"])
        self.assertEqual((driver().lines.B, driver().lines.C), ("P2", "P1"))
        self.drag(cords, cords.places.lines["P3"], QPointF(5, 5))
        self.assertEqual(driver().lines.D, "P3")
        self.assertIn("Drop it on a socket", window.notice.text.text())
        for _ in range(3):
            session.bench.undo()
        self.assertEqual(session.document.machine, RIG)

    def test_cords_by_the_keys(self):
        _window, session, wires = self.face("wires")
        cords = wires.cords
        cords.setFocus()
        cords.reached = ("end", "A")
        for key in (Qt.Key.Key_Space, Qt.Key.Key_Down, Qt.Key.Key_Space):
            QTest.keyClick(cords, key)
        self.assertEqual(session.document.machine.axes[0].driver.wires, "CBAD")
        for key in (Qt.Key.Key_Space, Qt.Key.Key_Down, Qt.Key.Key_Escape):
            QTest.keyClick(cords, key)
        self.assertEqual((cords.held, session.document.machine.axes[0].driver.wires), (None, "CBAD"))

    def test_all_orders_are_judged_and_one_is_taken(self):
        _window, session, wires = self.face("wires")
        orders = wires.orders
        said = []
        orders.told.connect(said.append)
        for index in range(24):
            orders.look_at(index)
        self.assertEqual(
            [sum(word in text for text in said) for word in ("as wanted", "other way", "shudders")], [4, 4, 16]
        )
        place = orders.place(ORDERS.index("ADCB")).center()
        self.click(orders, place.x(), place.y())
        self.assertEqual(session.document.machine.axes[0].driver.wires, "ADCB")
        self.assertIn("turns the other way", wires.reason.text())

    def test_levels_outputs_kind_and_enable(self):
        """What the file can say of a driver is chosen where it is shown, and undone."""
        window, session, wires = self.face("wires", axis=1)
        driver = lambda: session.document.machine.axes[1].driver  # noqa: E731
        for key in ("pulse_active", "positive_level", "enable_active"):
            before = getattr(driver(), key)
            wires.polarities.choices[key].take("low" if before == "high" else "high")
            self.assertNotEqual(getattr(driver(), key), before)
        cords = wires.cords
        self.drag(cords, cords.places.lines["P6"], cords.places.lines[""])
        self.assertIsNone(driver().lines.EN)
        window.page.kind.take("pulse_pair")
        self.assertEqual((driver().kind, driver().lines.CW, driver().microsteps), ("pulse_pair", "P4", 8))
        window.page.kind.take("coils")
        self.assertEqual((driver().kind, driver().sequence), ("coils", "half"))
        self.assertTrue(window.page.face("wires").orders.isVisible())
        for _ in range(6):
            session.bench.undo()
        self.assertEqual(session.document.machine, RIG)
        session.choice.select(0)
        wires.outputs.take("bridge")
        wires.active.take("low")
        self.assertEqual(
            (session.document.machine.axes[0].driver.outputs, session.document.machine.axes[0].driver.active),
            ("bridge", "low"),
        )

    def test_unit_and_sense_are_set_at_the_tool(self):
        window, travel = self.station("travel")
        travel.unit.take("mm")
        travel.positive.take("ccw")
        axis = window.session.document.machine.axes[0]
        self.assertEqual((axis.unit, axis.positive, axis.travel[-1].stage), ("mm", "ccw", "screw"))
        window.session.bench.undo()
        window.session.bench.undo()
        self.assertEqual(window.session.document.machine, RIG)


class Finder(FaceTest):
    def test_windings_are_found_reading_by_reading_and_used(self):
        """The field takes what the meter shows and asks on; what follows is put into the axis, and undone."""
        _window, session, finder = self.face("finder")
        finder.counts[6].click()
        for place, name in enumerate(("white", "brown", "green", "grey", "red", "black")):
            self.type(finder.names[place], name)
        coils = ({"white", "brown", "green"}, "green"), ({"grey", "red", "black"}, "black")
        for _ in range(12):
            pair = finder.finder.pair
            if pair is None:
                break
            self.assertIn(f"Between {pair[0]} and {pair[1]}", finder.asked.text())
            group = next((g for g, _tap in coils if set(pair) <= g), None)
            tapped = group is not None and any(tap in pair for _g, tap in coils)
            self.type(finder.reading, "open" if group is None else "4.3" if tapped else "8.2 ohm")
        self.assertIn("each with a tap", finder.verdict.text())
        self.assertLessEqual(len(finder.finder.readings), 8)
        finder.use.click()
        motor = session.document.machine.axes[0].motor
        self.assertEqual(({motor.leads.AC, motor.leads.BD}, motor.winding), ({"green", "black"}, "unipolar"))
        self.assertAlmostEqual(motor.resistance_ohm, 4.2, delta=0.2)
        session.bench.undo()
        self.assertEqual(session.document.machine, RIG)
        finder.removers[0].click()
        self.assertFalse(finder.use.isEnabled() and finder.finder.found.kind == "incomplete")

    def test_nonsense_is_explained_and_nothing_is_lost(self):
        _window, _session, finder = self.face("finder")
        finder.counts[8].click()
        self.type(finder.reading, "8.1")
        for text, said in (
            ("-3", "not above 0"),
            ("five", "is not a resistance"),
            ("8 V", "not a unit"),
            ("0", "not above 0"),
        ):
            self.type(finder.reading, text)
            self.assertTrue(finder.reading.property("wrong"), text)
            self.assertIn(said, finder.reading.explanation.text())
            QTest.keyClick(finder.reading, Qt.Key.Key_Escape)
        self.assertEqual(len(finder.finder.readings), 1)
        self.type(finder.names[0], finder.finder.wires[1])
        self.assertIn("another wire", finder.names[0].explanation.text())
        first, second = finder.finder.readings[0].wires
        third = next(w for w in finder.finder.wires if w not in (first, second))
        for wire in (first, third):
            finder.ring.pick(finder.finder.wires.index(wire))
        self.assertEqual(finder.finder.pair, (first, third))
        self.type(finder.reading, "8.0")
        self.assertEqual(finder.finder.found.kind, "contradictory")
        self.assertIn("all others agree", finder.faults.text())
        finder.clear.click()
        self.assertEqual(finder.finder.readings, [])


class Symptoms(FaceTest):
    def test_causes_follow_what_is_ticked_and_a_cure_is_done(self):
        window, session, face = self.face("symptoms", axis=1)
        face.ticks["wrong_way"].click()
        self.assertEqual([cause.kind for cause in face.causes], ["direction-inverted", "coil-reversed"])
        face.rows[1].show_it.click()
        self.assertEqual(face.cords.preview.wires, "CBAD")
        face.rows[0].act.click()
        self.assertEqual(session.document.machine.axes[1].driver.positive_level, "low")
        self.assertEqual(face.causes, [])
        session.bench.undo()
        for key in ("wrong_way", "dark_lamp"):
            face.ticks[key].click()
        self.assertIn("No known cause", face.told.text())
        face.anew.click()
        face.ticks["stalls"].click()
        face.rows[0].act.click()
        self.assertIs(window.page, window.pages["ramp"])

    def test_rows_are_held_by_hand_and_what_was_seen_is_told(self):
        """Each press is one row, however long the key is held; the ring and the rotor show what the board counted."""
        window, session, face = self.face("symptoms")
        hand = face.hand
        hand.row.setValue(6)
        hand.hold.click()
        self.wait(lambda: hand.on.isEnabled())
        self.assertIn("Row 6 is on", hand.told.text())
        self.assertEqual(session.instant.steps_moved % 8, 6)
        window.activateWindow()
        hand.on.setFocus()
        self.wait(hand.on.hasFocus)
        for key, count in ((Qt.Key.Key_Space, 5), (Qt.Key.Key_Return, 1)):
            for k in range(count):
                held = QKeyEvent(QEvent.Type.KeyPress, key, Qt.KeyboardModifier.NoModifier, "", k > 0)
                asked = QKeyEvent(QEvent.Type.ShortcutOverride, key, Qt.KeyboardModifier.NoModifier, "", k > 0)
                QApplication.sendEvent(hand.on, asked)
                self.assertTrue(asked.isAccepted(), "the button's, and not the playhead's")
                QApplication.sendEvent(hand.on, held)
            QTest.keyRelease(hand.on, key)
            QTest.keyClick(window, Qt.Key.Key_Minus)
            self.wait(lambda: session.instant.steps_moved % 8 == 6)
        hand.on.click()
        self.wait(lambda: session.instant.steps_moved % 8 == 7)
        hand.ways[-1].click()
        for _ in range(2):
            hand.on.click()
        self.wait(lambda: session.instant.steps_moved % 8 == 1)
        hand.back.click()
        self.wait(lambda: session.instant.steps_moved % 8 == 0)
        hand.ways[1].click()
        self.assertEqual(face.diagnosis.moves, {6: -1, 0: -1})
        self.assertEqual([cause.kind for cause in face.causes], ["coil-reversed"])
        self.assertFalse(face.rows[0].act.isEnabled(), "nothing is changed while the board holds a row")
        hand.release.click()
        self.wait(lambda: not session.running.active)
        self.assertEqual((session.running.status.phase, session.running.status.power), ("stopped", False))
        self.assertEqual(session.running.status.counts[0], 2, "no press was lost, and none was doubled")
        self.assertTrue(face.rows[0].act.isEnabled())

    def test_a_board_that_is_not_there_is_told(self):
        window, session, face = self.face("symptoms")
        session.running.set_address("127.0.0.1:9")
        face.hand.hold.click()
        self.wait(lambda: not session.running.active)
        self.assertIn("127.0.0.1:9", window.notice.text.text())


class Current(FaceTest):
    def test_supplies_motor_and_rest_are_set(self):
        _window, session, face = self.face("current")
        name, volts, most = face.rows.fields[0]
        self.type(most, "0.1")
        self.type(volts, "6000 mV")
        self.type(name, "bench")
        made = session.document.machine
        self.assertEqual((made.supplies[0].name, made.supplies[0].volts, made.supplies[0].max_a), ("bench", 6.0, 0.1))
        self.assertEqual(made.axes[0].driver.supply, "bench")
        self.wait(lambda: any(f.code == "supply-overloaded" for f in session.planning.findings))
        for text in ("x", "-1", "5 ohm"):
            self.type(volts, text)
            self.assertTrue(volts.property("wrong"), text)
        self.type(name, "24 V supply")
        self.assertIn("appears twice", name.explanation.text())
        self.type(face.figures["resistance_ohm"], "0.06kohm")
        self.empty(face.figures["inductance_mh"])
        self.assertEqual(face.figures["inductance_mh"].text(), "not known")
        face.rest.take("reduced")
        self.assertEqual(session.document.machine.axes[0].driver.reduced_percent, 50.0)
        self.assertTrue(face.reduced.isVisible())
        face.supply.take(None)
        self.assertEqual(session.document.machine.axes[0].driver.supply_v, 6.0)
        face.rows.look_at(3)
        face.rows.add.click()
        self.assertEqual(session.document.machine.axes[0].driver.supply, "6 V supply")
        self.assertIn("as it is set", " ".join(face.heat.words()))
        for _ in range(8):
            session.bench.undo()
        self.assertEqual(session.document.machine, RIG)

    def test_switches_are_described_and_turned_over(self):
        _window, session, face = self.face("microsteps", axis=1)
        driver = lambda: session.document.machine.axes[1].driver  # noqa: E731
        slides = face.switches.slides
        self.click(slides, slides.place(2).center().x(), slides.place(2).center().y())
        self.assertEqual(driver().switches.setting, "111")
        self.assertIn("For 8 microsteps: 1 on, 2 on, 3 off", face.switches.told.text())
        self.wait(lambda: any(f.code == "switches-differ" for f in session.planning.findings))
        self.type(face.switches.table, "00 2, 01 4, 10 8")
        self.assertEqual((driver().switches.names, driver().switches.setting), (("1", "2"), None))
        for text, said in (
            ("00 2 1", "each followed by"),
            ("00 2, 00 4", "appears twice"),
            ("00 2, 01 2", "both give 2"),
            ("00 2 1 4", "has 1 digits"),
        ):
            self.type(face.switches.table, text)
            self.assertIn(said, face.switches.table.explanation.text())
        self.empty(face.switches.table)
        self.assertIsNone(driver().switches)
        face.switches.use_table(3, "all off is full steps, the first switch counts one")
        self.assertEqual(driver().switches.setting, "110")
        self.type(face.number, "16")
        self.assertIn("1 off, 2 off, 3 on", face.switches.told.text())
        face.levels.setCurrentText("8")
        self.assertIn("With 8 levels", face.told.text())


class Board(FaceTest):
    def test_tags_are_dragged_and_lines_edited(self):
        window, session, face = self.face("board")
        picture = face.picture
        tag, free = picture.plugs()[Use(0, "A")], picture.places()["lines", "P14"]
        self.drag(picture, tag.center(), free.center())
        self.assertEqual(session.document.machine.axes[0].driver.lines.A, "P14")
        self.drag(picture, picture.plugs()[Use(0, "B")].center(), picture.plugs()[Use(1, "STEP")].center())
        self.assertEqual(session.document.machine.axes[1].driver.lines.STEP, "P1")
        picture.marked = ("lines", "P14")
        picture.rename()
        field = window.focusWidget()
        QTest.keyClicks(field, "coil A")
        QTest.keyClick(field, Qt.Key.Key_Return)
        self.assertEqual(session.document.machine.axes[0].driver.lines.A, "coil A")
        picture.setFocus()
        QTest.keyClick(picture, Qt.Key.Key_Delete)
        self.assertIn("Wheel's A uses line coil A", window.notice.text.text())
        face.more.click()
        face.inputs.click()
        board = session.document.machine.board
        self.assertEqual((board.lines[-1], board.inputs[-1]), ("P14", "I4"))
        self.type(face.fields["tick_hz"], "10")
        self.assertIn("at least 1000", face.fields["tick_hz"].explanation.text())
        for _ in range(5):
            session.bench.undo()
        self.assertEqual(session.document.machine, RIG)

    def test_a_board_is_kept_for_other_machines(self):
        with mock.patch.dict(os.environ, {"KIVANT_SHELF": str(self.folder)}):
            window, _session, face = self.face("board")
            face.keep.click()
            self.assertIn("Kept as “bench board”", window.notice.text.text())
            bare = replace(machine(coil_axis(), blocks=(move(to={"Disc": "9"}),)), name="bare")
            other, _session, second = self.face("board", document=Document(bare))
            second.shelf.aboutToShow.emit()
            second.shelf.actions()[0].trigger()
            self.assertEqual(other.session.document.machine.board, RIG.board)
            other.session.bench.undo()
            self.assertEqual(other.session.document.machine, bare)
            (self.folder / "boards" / "bench board.json").write_text("{}")
            second.shelf.actions()[0].trigger()
            self.assertIn("not a board that Kivant kept", other.notice.text.text())

    def test_findings_lead_to_the_face_of_their_place(self):
        window, _phases = self.station(PHASES)
        for place, axis, face in (
            ("board.lines[3]", 0, "board"),
            ("supplies[0].max_a", 0, "current"),
            ("axes[1].driver.switches.setting", 1, "microsteps"),
            ("axes[1].driver.at_rest", 1, "current"),
            ("axes[0].driver.wires", 0, "wires"),
            ("axes[0].motor.winding", 0, "current"),
            ("axes[3].driver.sequence", 3, "sequence"),
        ):
            window.show_place(Path.parse(place))
            self.assertEqual((window.session.choice.index, window.page.face_key), (axis, face), place)
        QTest.keyClick(window.page, Qt.Key.Key_PageDown, Qt.KeyboardModifier.ControlModifier)
        self.assertEqual(window.page.face_key, "wires")
        self.assertTrue(window.page.names.buttons["wires"].isChecked())
