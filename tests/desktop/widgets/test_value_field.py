"""Values typed where they are shown: taken, refused, turned and taken back."""

from decimal import Decimal

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QStyle, QStyleOptionFrame

from kivant.app.document.document import Document
from kivant.core.machine import Ratio
from kivant.desktop.kit.theme import VALUE_INSET
from tests.desktop.painted import Painted
from tests.desktop.stations.base import RAMP, TRAVEL, StationTest
from tests.machines import coil_axis, machine


class Values(StationTest):
    def test_a_value_is_typed_where_it_is_shown(self):
        """With a unit or without; each edit has a name, and undo and redo go over them."""
        window, ramp = self.station(RAMP)
        session = window.session
        for key, text, expected in (
            ("speed", "5rpm", 30.0),
            ("acceleration", "200", 200.0),
            ("start_speed", "0.02 rev/s", 7.2),
        ):
            self.type(ramp.fields[key], text)
            self.assertAlmostEqual(getattr(session.document.machine.axes[0].limits, key), expected)
        self.assertEqual(session.document.undo_name, "start speed of Wheel")
        for _ in range(3):
            session.bench.undo()
        self.assertFalse(session.document.modified)
        self.assertEqual(ramp.fields["speed"].text(), "60 deg/s")
        session.bench.redo()
        self.assertEqual(ramp.fields["speed"].text(), "30 deg/s")

    def test_a_value_too_long_for_its_field_is_whole_while_it_is_typed_at(self):
        """Shortened with a mark, never cut; looking at it in full changes nothing, turning its digit keeps the rest."""
        ratio = Ratio(ratio="1.23456789012")
        long = replace(coil_axis(), travel=(ratio,) * 8)
        window, travel = self.station(TRAVEL, document=Document(machine(long)))
        window.resize(1100, 700)
        self.app.processEvents()
        field, session = travel.cards[1].fields[0], window.session
        for _ in range(2):
            self.assertRegex(field.text(), "^1[.]2345.*…$")
            field.setFocus()
            self.assertEqual(field.text(), ratio.ratio)
            travel.cards[0].field.setFocus()
            option = QStyleOptionFrame()
            field.initStyleOption(option)
            room = field.style().subElementRect(QStyle.SubElement.SE_LineEditContents, option, field).width()
            self.assertEqual(room, field.width() - 2 * VALUE_INSET, "as the style has it")
        self.assertIsNone(session.document.undo_name)
        field.setFocus()
        field.setCursorPosition(3)
        QTest.keyClick(field, Qt.Key.Key_Up)
        self.assertEqual(session.document.machine.axes[0].travel[0].ratio, "1.33456789012")

    def test_undo_in_a_field_takes_back_the_typing_and_then_the_edits(self):
        """The field shows what is undone, and leaving it does not bring the old text back."""
        window, ramp = self.station(RAMP)
        session, field, control = window.session, ramp.fields["speed"], Qt.KeyboardModifier.ControlModifier
        self.type(field, "30")
        self.type(field, "45", enter=False)
        QTest.keyClick(field, Qt.Key.Key_Z, control)
        self.assertEqual(session.document.machine.axes[0].limits.speed, 30.0, "only the typing is taken back")
        QTest.keyClick(field, Qt.Key.Key_Escape)
        field.setFocus()
        QTest.keyClick(field, Qt.Key.Key_Z, control)
        self.assertEqual((session.document.machine.axes[0].limits.speed, field.text()), (60.0, "60 deg/s"))
        QTest.keyClick(field, Qt.Key.Key_Z, control | Qt.KeyboardModifier.ShiftModifier)
        self.assertEqual((session.document.machine.axes[0].limits.speed, field.text()), (30.0, "30 deg/s"))
        session.bench.undo()
        window.run_page.lanes.setFocus()
        ramp.fields["acceleration"].setFocus()
        self.assertFalse(session.document.modified)

    def test_the_ends_of_the_travel_are_typed_at_the_tool(self):
        window, travel = self.station(TRAVEL, axis=1)
        session, tool = window.session, travel.cards[-1]
        self.assertEqual([field.text() for field in tool.fields], ["0 mm", "180 mm"])
        for field, text, ends in (
            (1, "2 in", (Decimal(0), Decimal("50.8"))),
            (0, " ", (None, Decimal("50.8"))),
            (1, "Free", (None, None)),
            (0, "-200 steps", (Decimal(-1), None)),
        ):
            self.type(tool.fields[field], text)
            limits = session.document.machine.axes[1].limits
            self.assertEqual((limits.min, limits.max), ends, text)
        self.assertEqual(session.document.undo_name, "least position of Lift")
        self.type(tool.fields[1], "-3")
        self.assertIn("lies below the least", tool.fields[1].explanation.text())
        self.assertIsNone(session.document.machine.axes[1].limits.max)

    def test_the_scales_of_a_position_have_round_labels(self):
        """Each label is a multiple of the distance between two, written with all the digits that takes."""
        _window, travel = self.station(TRAVEL, axis=1)
        for text in ("12.5", "0", "-0.003", "179.9975", "1e3", "77.77"):
            self.type(travel.face("convert").position, text)
            with Painted() as painted:
                travel.face("convert").scales.grab()
            scale = painted.texts[painted.texts.index("mm") + 1 :]
            exact = [Decimal(t.replace("\u2212", "-").replace("\u2009", "")) for t in scale]
            marks = [value for value, shown in zip(exact, scale, strict=True) if "." in shown]
            spacing = {b - a for a, b in zip(marks, marks[1:], strict=False)}
            self.assertEqual(len(spacing), 1, (text, scale))
            self.assertTrue(all(value % spacing.pop() == 0 for value in marks[:1]), (text, marks))

    def test_nonsense_is_explained_beside_the_field_and_not_taken(self):
        window, ramp = self.station(RAMP)
        before = window.session.document.machine
        for key, text, words in (
            ("speed", "fast", "Type a number and a unit: deg/s"), ("speed", "-4", "a number above 0"),
            ("acceleration", "1e99", "more than 1e15"), ("deceleration", "5 mm", "is not a unit of an acceleration"),
            ("start_speed", "page one\\npage two " * 40, "is not a speed"),
        ):  # fmt: skip
            field = ramp.fields[key]
            self.type(field, text)
            self.assertTrue(field.property("wrong"), text)
            self.assertTrue(field.explanation.isVisible())
            self.assertRegex(field.explanation.text(), words)
            self.assertTrue(window.rect().contains(field.explanation.geometry()))
            QTest.keyClick(field, Qt.Key.Key_Escape)
            self.assertFalse(field.explanation.isVisible())
            self.assertFalse(field.property("wrong"))
        self.assertIs(window.session.document.machine, before)

    def test_what_was_typed_for_one_axis_is_not_taken_for_another(self):
        window, ramp = self.station(RAMP)
        self.type(ramp.fields["speed"], "33", enter=False)
        window.session.choice.select(1)
        ramp.fields["acceleration"].setFocus()
        self.assertEqual([a.limits.speed for a in window.session.document.machine.axes[:2]], [60.0, 40.0])

    def test_up_and_down_turn_the_digit_at_the_cursor_as_one_edit(self):
        window, ramp = self.station(RAMP)
        field = ramp.fields["acceleration"]
        field.setFocus()
        field.setCursorPosition(2)  # behind the tens of 120
        for _ in range(3):
            QTest.keyClick(field, Qt.Key.Key_Up)
        self.assertEqual(window.session.document.machine.axes[0].limits.acceleration, 150.0)
        QTest.keyClick(field, Qt.Key.Key_Down)
        self.assertEqual(field.text(), "140 deg/s²")
        window.session.bench.undo()
        self.assertEqual(window.session.document.machine.axes[0].limits.acceleration, 120.0)
