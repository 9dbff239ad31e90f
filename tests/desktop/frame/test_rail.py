"""The rail: axes added, renamed, moved, duplicated and deleted."""

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from kivant.core.machine import axes
from kivant.desktop.widgets.value_field import ValueField
from tests.desktop.stations.base import RAMP, RUN, StationTest


class Rail(StationTest):
    def test_axes_are_added_renamed_moved_duplicated_and_deleted(self):
        """By keys and menu; routines keep their meaning, lines are never shared, all of it can be undone."""
        window, _station = self.station(RUN)
        session, rail = window.session, window.rail
        window.rail.add.click()
        self.choose("Sliding, coil driver")
        self.assertEqual((session.choice.axis.unit, session.choice.axis.driver.kind), ("mm", "coils"))
        self.assertEqual((session.document.machine.axes[4].name, session.choice.index), ("Axis", 4))
        rail.cards[0].setFocus()
        QTest.keyClick(rail.cards[0], Qt.Key.Key_F2)
        field = rail.findChildren(ValueField)[-1]
        self.type(field, "Lift")
        self.assertIn("appears twice", field.explanation.text())
        self.type(field, "Turntable")
        self.assertEqual(session.document.machine.axes[0].name, "Turntable")
        self.assertIn("Turntable", session.document.machine.routines[0].blocks[3].by)
        QTest.keyClick(rail.cards[0], Qt.Key.Key_Down, Qt.KeyboardModifier.ControlModifier)
        self.assertEqual([a.name for a in session.document.machine.axes[:2]], ["Lift", "Turntable"])
        QTest.keyClick(rail.cards[1], Qt.Key.Key_D, Qt.KeyboardModifier.ControlModifier)
        self.assertEqual(session.document.machine.axes[2].name, "Turntable 2")
        card = rail.cards[3]
        QTest.mousePress(card, Qt.MouseButton.LeftButton, pos=QPoint(60, 20))
        QTest.mouseMove(card, QPoint(60, -60))
        QTest.mouseRelease(card, Qt.MouseButton.LeftButton, pos=QPoint(60, -2 * card.height()))
        self.assertEqual(session.document.machine.axes[1].name, "Reach")
        rail.cards[0].make_menu().actions()[-1].trigger()
        self.assertNotIn("Lift", [a.name for a in session.document.machine.axes])
        self.assertEqual([f for f in session.planning.findings if f.code == "line-shared"], [])
        while session.document.undo_name:
            session.bench.undo()
        self.assertFalse(session.document.modified)
        self.wait(lambda: not session.planning.busy)

    def test_a_field_over_a_name_goes_when_it_is_left_and_stays_while_it_is_wrong(self):
        """Enter, Esc or going elsewhere: none stays behind; a name that cannot be is explained beside its field."""
        window, _station = self.station(RUN)
        session, card = window.session, window.rail.cards[0]

        def fields() -> list[ValueField]:
            self.clear_away()
            return [f for part in (window.rail, window.head) for f in part.findChildren(ValueField)]

        for rename in (card.rename, window.head.rename):
            for end in (Qt.Key.Key_Escape, Qt.Key.Key_Return, None):
                card.setFocus()
                rename()
                (field,) = fields()
                if end is None:
                    window.run_page.lanes.setFocus()
                else:
                    QTest.keyClick(field, end)
                    self.assertIs(window.focusWidget(), card)
                self.assertEqual(fields(), [])
        card.rename()
        (field,) = fields()
        self.type(field, "Lift")
        self.assertEqual(fields(), [field])
        self.assertTrue(field.explanation.isVisible())
        explanation = field.explanation
        QTest.keyClick(field, Qt.Key.Key_Escape)
        self.assertFalse(explanation.isVisible())
        self.assertEqual(fields(), [])
        self.assertIsNone(session.document.undo_name)

    def test_a_name_is_that_of_its_axis_wherever_it_has_gone(self):
        window, _station = self.station(RUN)
        session = window.session
        for edit, wanted in (
            (axes.move_axis(3, 0), ["Table", "Wheel", "Lift", "Reach"]),
            (axes.delete_axis(3), ["Wheel", "Lift", "Reach"]),
        ):
            window.rail.cards[3].rename()
            (field,) = window.rail.findChildren(ValueField)
            session.edit(edit, "place")
            self.type(field, "Table")
            self.assertEqual([axis.name for axis in session.document.machine.axes], wanted)
            while session.document.undo_name:
                session.bench.undo()
            self.settle(window)

    def test_nothing_is_edited_while_axes_move(self):
        window, ramp = self.station(RAMP)
        window.session.running.start()
        self.wait(lambda: window.session.running.status.elapsed_s > 0.2)
        before = window.session.document.machine
        self.assertFalse(ramp.fields["speed"].isEnabled())
        QTest.keyClick(window.rail.cards[0], Qt.Key.Key_Delete)
        window.session.bench.undo()
        self.assertIs(window.session.document.machine, before)
        self.assertIn("Stop them", window.notice.text.text())
