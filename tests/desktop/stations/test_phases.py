"""The Phases station: rows are clicked, sequences switched, pulse times typed."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest

from tests.desktop.stations.base import PHASES, StationTest


class Phases(StationTest):
    def test_rows_are_clicked_and_sequences_switched(self):
        """A row goes to the next time it is in force; another sequence changes what follows."""
        window, phases = self.station(PHASES)
        session, ring = window.session, phases.face("sequence").ring
        for row in (3, 1, 6):
            place = ring.places()[row].center()
            self.click(ring, place.x(), place.y())
            self.assertEqual(ring.row(), row)
            self.assertIn(f"field {row * 45:.1f}° electrical", phases.rotor.words())
        QTest.keyClick(ring, Qt.Key.Key_5)
        self.assertEqual(ring.row(), 5)
        columns = phases.face("sequence").comparison.columns
        self.assertEqual([column.name for column in columns], ["wave", "full", "half"])
        columns[1].click()
        self.wait(lambda: not session.planning.busy)
        self.assertEqual((session.document.machine.axes[0].driver.sequence, len(ring.places())), ("full", 4))
        self.assertTrue(phases.face("sequence").comparison.columns[1].isChecked())
        self.assertEqual(session.document.undo_name, "full for Wheel")

    def test_plugs_are_swapped_by_typing(self):
        """Small letters and blanks will do; the verdict and the rotor follow; nonsense is explained; undo takes it back."""
        window, phases = self.station(PHASES)
        session, plugs = window.session, phases.face("sequence").plugs
        self.assertEqual((plugs.field.text(), plugs.verdict.text()), ("ABCD", "turns forward"))
        for typed, wires, verdict in (("a, c b d", "ACBD", "only shudders"), ("ADCB", "ADCB", "turns the other way"),
                                      ("abcd", None, "turns forward")):  # fmt: skip
            self.type(plugs.field, typed)
            self.assertEqual(session.document.machine.axes[0].driver.wires, wires)
            self.assertEqual(plugs.verdict.text(), verdict)
        for nonsense in ("ABBD", "ABC", "1234", "ABCDE"):
            self.type(plugs.field, nonsense)
            self.assertTrue(plugs.field.property("wrong"), nonsense)
            self.assertIsNone(session.document.machine.axes[0].driver.wires)
        for _ in range(3):
            session.bench.undo()
        self.assertFalse(session.document.modified)
        session.choice.select(1)
        self.assertFalse(plugs.isVisible(), "a driver that takes pulses orders the coils itself")

    def test_a_table_of_ones_own_is_typed(self):
        """In any notation; the ring, the chain and the plan follow; a known one keeps its name; nonsense is explained."""
        window, phases = self.station(PHASES)
        session, field, driver = (
            window.session,
            phases.face("sequence").plugs.rows,
            lambda: window.session.document.machine.axes[0].driver,
        )
        self.assertEqual(field.text(), "1 3 2 6 4 12 8 9")
        self.type(field, "0x3, 0x6, 0xC, 0x9")
        self.assertEqual((driver().sequence, len(phases.face("sequence").ring.places())), ("full", 4))
        self.type(field, "{1,3,2,6,4,12,8,9, 1,3,2,6,4,12,8,9}")
        self.wait(lambda: not session.planning.busy)
        self.assertEqual((len(driver().sequence.rows), len(phases.face("sequence").ring.places())), (16, 16))
        self.assertEqual(window.head.chain.plates["phases"].figure, "own table, 16 rows")
        self.assertIsNotNone(session.planning.plan)
        columns = phases.face("sequence").comparison.columns
        self.assertEqual([column.name for column in columns if column.isChecked()], ["own"])
        for nonsense in ("1,2,16", "10000 01000", "five", "1," * 400):
            self.type(field, nonsense)
            self.assertTrue(field.property("wrong"), nonsense)
        self.assertEqual(len(driver().sequence.rows), 16)
        self.type(field, "1 4 2 8")
        self.wait(lambda: not session.planning.busy)
        self.assertIsNone(session.planning.plan, "it only shudders")
        for _ in range(3):
            session.bench.undo()
        self.assertEqual((driver().sequence, field.text()), ("half", "1 3 2 6 4 12 8 9"))

    def test_the_table_is_copied_for_a_program(self):
        window, phases = self.station(PHASES)
        for action, words in zip(phases.face("sequence").plugs.copy.menu().actions(), ("const unsigned char FORWARD[8] = { 0x01, 0x03",
                                 "D: bit 0", "FORWARD = (0x01, 0x03", "0x08, 0x0C", "01 03 02", "08 0C 04"), strict=True):  # fmt: skip
            action.trigger()
            self.assertIn(words, QGuiApplication.clipboard().text(), action.text())
        self.assertIn("Copied: 8 words, plain hex", window.notice.text.text())

    def test_pulse_times_and_microsteps_are_edited(self):
        window, phases = self.station(PHASES, axis=1)
        session = window.session
        choices = phases.face("microsteps").choices
        self.assertEqual([c.isChecked() for c in choices].index(True), 3)
        self.assertEqual(choices[0].choice.note, "torque 1, 1 A")
        self.assertEqual(choices[1].choice.note, "torque 0.71, 1 A")  # sin 45°
        choices[4].click()
        self.assertEqual(session.document.machine.axes[1].driver.microsteps, 16)
        phases.show_face("pulses")
        self.type(phases.face("pulses").fields["direction_setup_us"], "0.02 ms")
        self.assertEqual(session.document.machine.axes[1].driver.direction_setup_us, 20.0)
        self.type(phases.face("pulses").fields["pulse_high_us"], "-1")
        self.assertTrue(phases.face("pulses").fields["pulse_high_us"].property("wrong"))
