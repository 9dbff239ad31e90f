"""The Phases station: rows are clicked, sequences switched, pulse times typed."""

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from tests.desktop.stations.base import PHASES, StationTest


class Phases(StationTest):
    def test_rows_are_clicked_and_sequences_switched(self):
        """A row goes to the next time it is in force; another sequence changes what follows."""
        window, phases = self.station(PHASES)
        session, ring = window.session, phases.ring
        for row in (3, 1, 6):
            place = ring.places()[row].center()
            self.click(ring, place.x(), place.y())
            self.assertEqual(ring.row(), row)
            self.assertIn(f"field {row * 45:.1f}° electrical", phases.rotor.words())
        QTest.keyClick(ring, Qt.Key.Key_5)
        self.assertEqual(ring.row(), 5)
        self.assertEqual([card.choice.name for card in phases.choices], ["wave", "full", "half"])
        phases.choices[1].click()
        self.wait(lambda: not session.planning.busy)
        self.assertEqual((session.document.machine.axes[0].driver.sequence, len(ring.places())), ("full", 4))
        self.assertTrue(phases.choices[1].isChecked())
        self.assertEqual(session.document.undo_name, "full for Wheel")

    def test_plugs_are_swapped_by_typing(self):
        """Small letters and blanks will do; the verdict and the rotor follow; nonsense is explained; undo takes it back."""
        window, phases = self.station(PHASES)
        session, plugs = window.session, phases.plugs
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

    def test_pulse_times_and_microsteps_are_edited(self):
        window, phases = self.station(PHASES, axis=1)
        session = window.session
        self.assertEqual([c.isChecked() for c in phases.choices].index(True), 3)
        self.assertEqual(phases.choices[0].choice.note, "torque 1, 1 A")
        self.assertEqual(phases.choices[1].choice.note, "torque 0.71, 1 A")  # sin 45°
        phases.choices[4].click()
        self.assertEqual(session.document.machine.axes[1].driver.microsteps, 16)
        self.type(phases.pulses.fields["direction_setup_us"], "0.02 ms")
        self.assertEqual(session.document.machine.axes[1].driver.direction_setup_us, 20.0)
        self.type(phases.pulses.fields["pulse_high_us"], "-1")
        self.assertTrue(phases.pulses.fields["pulse_high_us"].property("wrong"))
