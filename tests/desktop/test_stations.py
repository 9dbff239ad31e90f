"""The stations, worked on by hand: values typed and turned, handles dragged, rows clicked, stages and axes moved."""

from dataclasses import replace
from decimal import Decimal
from unittest import mock

from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QWidget

from kivant.app.document.document import Document
from kivant.app.document.examples import load_example
from kivant.app.running.manual_move import ManualMove
from kivant.core.machine import Gear, Machine, Ratio
from kivant.core.machine import axes as axes_of
from kivant.core.travel.shafts import shaft_turns
from kivant.desktop.kit import figures
from kivant.desktop.stations import STATIONS
from kivant.desktop.widgets.value_field import ValueField
from tests.desktop.base import WindowTest
from tests.desktop.painted import Painted
from tests.desktop.test_layout import SIZES, axes
from tests.machines import coil_axis, machine, move, screw_axis

PHASES, TRAVEL, RAMP, RUN = STATIONS


class StationTest(WindowTest):
    def station(self, key: str, axis: int = 0, document: Document | None = None):
        """Open a window at a station and axis; return both."""
        window = self.open(document)
        window.session.choice.select(axis)
        window.show_station(key)
        self.settle(window)
        return window, window.pages[key]


class Chain(StationTest):
    def test_plates_are_doors_and_say_what_follows_from_an_edit(self):
        """Alt and a digit opens a station; a changed link flashes what follows from it, and nothing before it."""
        window, _station = self.station(RUN)
        chain = window.head.chain.plates
        plates = list(chain.values())
        for number in (0, 2, 1, 3):
            self.press(window, Qt.Key(Qt.Key.Key_1 + number), Qt.KeyboardModifier.AltModifier)
            key = list(STATIONS)[number]
            self.assertEqual((window.page, chain[key].isChecked()), (window.pages[key], True))
            window.run_page.lanes.setFocus()
        self.assertEqual(
            [p.figure for p in plates], ["half, 8 rows", "8.1164 steps/deg", "60 deg/s", "4 axes, 17.37 s"]
        )
        window.show_station(TRAVEL)
        field = window.pages[TRAVEL].cards[1].fields[1]
        self.type(field, "62")
        self.assertEqual([p.figure for p in plates[:3]], ["half, 8 rows", "16.233 steps/deg", "60 deg/s"])
        self.assertEqual([p.flashing for p in plates[:3]], [False, True, False])
        window.session.choice.select(3)
        self.assertIn("1 to look at", plates[0].toolTip())


class Newer(StationTest):
    def test_an_axis_that_is_newer_than_the_plan_has_no_steps_yet(self):
        """Until the next plan has come, a new axis can be looked at and stepped through without harm."""
        window, _station = self.station(PHASES)
        session = window.session
        session.edit(axes_of.add_axis(next(iter(axes_of.new_axes()))), "new axis")
        session.choice.select(4)
        self.assertTrue(session.planning.busy)
        self.assertIsNone(session.instant.axis_plan)
        for number in (PHASES, RUN):
            window.show_station(number)
            window.bar.on.click()
            window.bar.back.click()
            window.grab()
        self.assertEqual((session.instant.steps_moved, session.playhead.time_s), (0, 0.0))
        self.wait(lambda: not session.planning.busy)
        self.assertEqual(session.instant.axis_plan.axis, session.choice.axis)


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
            self.type(travel.position, text)
            with Painted() as painted:
                travel.scales.grab()
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


class Ramps(StationTest):
    def drag(self, chart: QWidget, begin: QPointF, to: QPointF) -> None:
        points = [begin + (to - begin) * (k / 8) for k in range(9)]
        QTest.mousePress(chart, Qt.MouseButton.LeftButton, pos=begin.toPoint())
        for point in points[1:]:
            QTest.mouseMove(chart, point.toPoint())
        QTest.mouseRelease(chart, Qt.MouseButton.LeftButton, pos=to.toPoint())

    def test_handles_are_dragged_and_the_old_curve_stays_as_a_ghost(self):
        """Each drag is one edit; the handle follows the hand; figures follow."""
        window, ramp = self.station(RAMP)
        chart, session = ramp.chart, window.session
        before = ramp.values["duration"].text()
        for key, by in (
            ("speed", QPointF(0, 60)),
            ("acceleration", QPointF(30, 0)),
            ("deceleration", QPointF(-25, 0)),
            ("start_speed", QPointF(0, -12)),
        ):
            old = getattr(session.document.machine.axes[0].limits, key)
            at = chart.picture.handles[key]
            self.drag(chart, at, at + by)
            new = getattr(session.document.machine.axes[0].limits, key)
            self.assertNotEqual(new, old, key)
            self.assertEqual(session.document.undo_name, f"{key.replace('_', ' ')} of Wheel")
            self.assertEqual(getattr(chart.ghost.axis.axis.limits, key), old)
            session.bench.undo()
            self.settle(window)
            self.assertEqual(getattr(session.document.machine.axes[0].limits, key), old)
        self.assertEqual(ramp.values["duration"].text(), before)

    def test_handles_dragged_past_every_limit_stay_sane(self):
        window, ramp = self.station(RAMP)
        chart = ramp.chart
        for key in ("speed", "acceleration", "deceleration", "start_speed"):
            for far in (QPointF(9000, 9000), QPointF(-9000, -9000), QPointF(9000, -9000), QPointF(-9000, 9000)):
                if key in chart.picture.handles:
                    self.drag(chart, chart.picture.handles[key], far)
                limits = window.session.document.machine.axes[0].limits
                self.assertGreater(min(limits.speed, limits.acceleration, limits.deceleration), 0.0)
                self.assertGreaterEqual(limits.start_speed, 0.0)
                self.settle(window)
                window.grab()

    def test_the_speed_at_the_playhead_is_a_level_across_the_curve(self):
        """The wheel and the lift start together from rest at the wheel's 120 deg/s²: 12 deg/s after 0.1 s."""
        window, ramp = self.station(RAMP)
        session = window.session
        for seconds, texts in ((0.1, ["at the playhead 12 deg/s"]), (-0.1, [])):
            session.playhead.go(session.planning.plan.blocks[3].begin_s + seconds)
            with Painted() as painted:
                ramp.chart.grab()
            self.assertEqual([text for text in painted.texts if "playhead" in text], texts)

    def test_figures_are_those_of_the_plan(self):
        """From 6 to 60 deg/s at 120 deg/s² takes 0.45 s and 14.85 deg; 487 of the board's 100,000 steps/s."""
        window, ramp = self.station(RAMP)
        texts = {name: label.text() for name, label in ramp.values.items()}
        self.assertEqual((texts["accelerating"], texts["decelerating"]), ("0.45 s, 14.85 deg",) * 2)
        self.assertEqual(texts["duration"], "1.905000 s")
        self.assertEqual(texts["pulse limit"], "0.48698 % of 100\u2009000/s")
        self.assertEqual(texts["rotor"], "304.36 rpm")
        self.type(ramp.distance, "-0.1 rev")
        self.settle(window)
        self.assertIn("292 steps", ramp.sentence.text())
        with Painted() as painted:
            self.type(ramp.distance, "1e14")
            self.settle(window)
        self.assertEqual((ramp.sentence.text(), ramp.values["peak"].text()), ("", "–"))
        self.assertIn("would have 8.12e+14 steps", " ".join(painted.texts))
        self.type(ramp.distance, "far")
        self.assertTrue(ramp.distance.property("wrong"))
        with Painted() as painted:
            self.type(ramp.distance, "0")
            self.settle(window)
        self.assertIn("Nothing moves over a distance of 0.", painted.texts)


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
        travel.swap.click()
        self.assertEqual(session.document.machine.axes[2].travel[-1].stage, "screw")
        self.type(travel.cards[1].fields[0], "0.2in")
        self.assertIn("5.08 mm", travel.cards[1].fields[0].text())

    def test_the_drawn_parts_turn_as_the_axis_does(self):
        """Rims that mesh go equally far and against each other; the tool turns as its dial, a belt as far as its axis."""
        machine = load_example()
        gears = (Gear(driving=9, driven=40), Ratio(ratio="13.73"), Gear(driving=50, driven=20))
        reach = replace(machine.axes[2], travel=(*gears, *machine.axes[2].travel))
        for axis in (*machine.axes, reach, replace(machine.axes[0], positive="ccw")):
            position = 217.3
            shafts = shaft_turns(axis, position)
            turning = [stage for stage in axis.travel if isinstance(stage, Gear | Ratio)]
            self.assertEqual(len(shafts), len(turning) + 1)
            for stage, before, after in zip(turning, shafts, shafts[1:], strict=False):
                if isinstance(stage, Gear):
                    self.assertAlmostEqual(before * stage.driving, -after * stage.driven)
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


class ByHand(StationTest):
    def setUp(self) -> None:
        super().setUp()
        # A computer that runs tests may stall for longer than the board is kept ahead, which would brake by itself.
        patch = mock.patch.object(ManualMove.__init__, "__defaults__", (1.0,))
        patch.start()
        self.addCleanup(patch.stop)

    def test_the_spring_moves_the_axis_while_it_is_pulled(self):
        """Faster the further; let go it brakes; then composed moves begin where it stands; one step is one step."""
        window, run = self.station(RUN, axis=1)
        session, spring = window.session, run.board.by_hand.spring
        far = QPoint(spring.width() - 12, 13)
        QTest.mousePress(spring, Qt.MouseButton.LeftButton, pos=far)
        self.wait(lambda: session.running.status.counts and session.running.status.counts[1] > 400)
        self.assertGreater(spring.speed(), 30.0)
        self.assertIn("by hand", run.panels[1].words()[0])
        self.assertGreater(session.instant.position_of(1), 1.0)
        with Painted() as painted:
            window.grab()
        counted = f"step {figures.grouped(session.running.status.counts[1])} counted, moved by hand"
        self.assertIn(counted, painted.texts)
        self.assertIn("While an axis is moved by hand, its lines are not planned.", painted.texts)
        self.assertEqual(session.instant.steps_moved, session.running.status.counts[1])
        QTest.mouseRelease(spring, Qt.MouseButton.LeftButton, pos=far)
        self.wait(lambda: not session.running.active and bool(session.running.standing.places))
        place, result = session.running.standing.places["Lift"], session.running.status.results[1]
        self.assertEqual(result.planned_steps, result.board_steps)
        self.assertEqual(float(place), result.board_steps / 200)
        run.board.by_hand.on.click()
        self.wait(lambda: not session.running.active and session.running.standing.places["Lift"] != place)
        self.assertAlmostEqual(float(session.running.standing.places["Lift"] - place), 0.005)
        session.choice.choose_routine(None)
        self.wait(lambda: not session.planning.busy)
        self.assertEqual(session.planning.plan.axes[1].start_steps, result.board_steps + 1)

    def test_it_brakes_when_the_window_is_hidden_or_stopped(self):
        for end in ("hide", "escape", "other station"):
            window, run = self.station(RUN, axis=1)
            spring = run.board.by_hand.spring
            spring.setFocus()
            QTest.keyPress(spring, Qt.Key.Key_Plus)
            self.wait(lambda s=window.session: s.running.status.counts and s.running.status.counts[1] > 100)
            {"hide": window.hide, "escape": window.escape, "other station": lambda w=window: w.show_station("phases")}[
                end
            ]()
            self.wait(lambda s=window.session: not s.running.active)
            status = window.session.running.status
            self.assertIn(status.phase, ("done", "stopped"), f"{end}: {status.message}")
            self.wait(lambda s=spring: s.share == 0.0)

    def test_a_machine_with_shared_lines_or_a_wrong_address_is_not_moved(self):
        window, run = self.station(RUN, document=Document(machine(screw_axis(), screw_axis("Reach", 0))))
        spring = run.board.by_hand.spring
        spring.pull_to(1.0)
        self.assertFalse(window.session.running.active)
        self.assertIn("uses line P0", window.notice.text.text())
        window, run = self.station(RUN)
        self.type(run.board.address, "nowhere")
        run.board.by_hand.spring.pull_to(1.0)
        run.board.by_hand.on.click()
        self.assertFalse(window.session.running.active)


class Odd(StationTest):
    def test_every_station_at_every_size_in_both_lights(self):
        """Nothing, one axis, twelve, figures of twelve digits: all stations are painted, and stay in the window."""
        huge = replace(coil_axis(), limits=replace(coil_axis().limits, speed=123456789012.0, acceleration=1e-6))
        tiny = replace(screw_axis(), limits=replace(screw_axis().limits, speed=1e-9, acceleration=1e12))
        for built in (
            Machine(),
            machine(huge, tiny),
            axes(12),
            machine(screw_axis(), blocks=(move(to={"Lift": "1"}),)),
        ):
            for size in SIZES:
                window = self.open(Document(built), size)
                for night in (False, True):
                    window.session.set_night(night)
                    for key in STATIONS:
                        window.show_station(key)
                        for axis in {0, max(len(built.axes) - 1, 0)}:
                            window.session.choice.select(axis)
                            picture = window.grab().toImage()
                            self.assertEqual((picture.width(), picture.height()), size)
                            for child in window.page.findChildren(QWidget):
                                if child.isVisible() and isinstance(child, ValueField):
                                    place = child.mapTo(window, QPoint(0, 0))
                                    self.assertLessEqual(place.y() + child.height(), window.bar.y(), (key, size))
                                    self.assertLessEqual(place.x() + child.width(), size[0], (key, size))
