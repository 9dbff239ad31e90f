"""The Ramp station: handles dragged and turned by keys, figures of the trial move."""

from decimal import Decimal

from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QWidget

from kivant.core.machine.parts import shape_of
from kivant.core.motion.trial import trial_move
from kivant.core.motor.resonance import natural_hz
from kivant.core.path import Path
from tests.desktop.painted import Painted
from tests.desktop.stations.base import RAMP, StationTest
from tests.patience import wait_until


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
        before = ramp.side.values["duration"].text()
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
        self.assertEqual(ramp.side.values["duration"].text(), before)

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
        texts = {name: label.text() for name, label in ramp.side.values.items()}
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
        self.assertEqual((ramp.sentence.text(), ramp.side.values["peak"].text()), ("", "–"))
        self.assertIn("would have 8.12e+14 steps", " ".join(painted.texts))
        self.type(ramp.distance, "far")
        self.assertTrue(ramp.distance.property("wrong"))
        with Painted() as painted:
            self.type(ramp.distance, "0")
            self.settle(window)
        self.assertIn("Nothing moves over a distance of 0.", painted.texts)
        self.type(ramp.fields["speed"], "50")
        self.type(ramp.distance, "90")
        self.type(ramp.fields["speed"], "40")
        self.settle(window)
        ramp.chart.ghost = trial_move(window.session.document.machine, 0, Decimal(0))
        ramp.chart.redraw()
        ramp.chart.grab()

    def tried(self, window, until) -> None:
        """Wait until something is known of what was tried."""
        wait_until(lambda: (self.app.processEvents(), until(window.session.bench.tries))[1])

    def test_the_same_move_with_every_shape(self):
        """What follows and what slips is told on cards; a press gives a shape, undone as one edit; one is no shape."""
        window, ramp = self.station(RAMP, axis=1)
        session, cards = window.session, ramp.cards.cards
        for path, text in (
            ("speed", "250mm/s"),
            ("acceleration", "4000"),
            ("deceleration", "4000"),
        ):
            self.type(ramp.fields[path], text)
        self.tried(window, lambda tries: len(tries.now.candidates) == 5)
        self.assertEqual(cards["none"].found.seconds, 40 / 250)
        self.assertRegex(cards["none"].words(), r"0.16 s, .* of the torque, loses \d+ full steps")
        self.assertRegex(cards["torque"].words(), "follows")
        for width, told in ((220, "needs.*loses"), (95, "^((?!needs).)*loses")):  # one never over the other
            with Painted() as painted:
                cards["none"].resize(width, 86)
                cards["none"].grab()
            self.assertRegex(" ".join(painted.texts), told)
        self.assertTrue(cards["trapezoid"].isChecked())
        before = session.document.machine
        for kind, shape, jerk in (("s_curve", "s_curve", 40000.0), ("torque", "torque", None), ("none", "none", None)):
            cards[kind].setFocus()
            QTest.keyClick(cards[kind], Qt.Key.Key_Space)
            self.settle(window)
            limits = session.document.machine.axes[1].limits
            self.assertEqual((shape_of(limits), limits.jerk), (shape, jerk))
            self.assertEqual(ramp.fields["jerk"].isVisible(), shape == "s_curve")
            self.assertEqual(list(ramp.chart.picture.handles), {
                "s_curve": ["start_speed", "jerk", "acceleration", "speed", "deceleration"],
                "torque": ["start_speed", "speed"], "none": ["speed"]}[shape])  # fmt: skip
            window.grab()
            session.bench.undo()
            self.assertEqual(session.document.machine, before)
        cards["even_delays"].click()
        self.assertEqual(session.document.machine, before)

    def test_an_s_curve_follows_the_hand(self):
        """Where a handle is dragged to, there it stands: the jerk's on its parabola, the acceleration's on its slope."""
        window, ramp = self.station(RAMP, axis=1)
        ramp.side.shape.take("s_curve")
        self.settle(window)
        chart = ramp.chart
        for key, by in (("jerk", QPointF(9, 0)), ("acceleration", QPointF(14, 0))):
            at = chart.picture.handles[key]
            frame = chart.picture.frame
            QTest.mousePress(chart, Qt.MouseButton.LeftButton, pos=at.toPoint())
            QTest.mouseMove(chart, (at + by).toPoint())
            self.settle(window)
            self.assertIs(chart.picture.frame, frame)
            there = chart.picture.handles[key]
            self.assertLess(abs(there.x() - (at + by).x()), 4 if key == "jerk" else 10, key)
            QTest.mouseRelease(chart, Qt.MouseButton.LeftButton, pos=(at + by).toPoint())
            self.settle(window)

    def test_the_fastest_ramp_is_found_told_and_taken(self):
        window, ramp = self.station(RAMP, axis=1)
        session, row = window.session, ramp.fastest
        for shape in ("trapezoid", "torque"):
            ramp.side.shape.take(shape)
            self.settle(window)
            row.button.click()
            self.tried(window, lambda tries: tries.now.fastest is not None)
            self.assertRegex(row.told.text(), "With a margin of 1.5 .*Simulated, the rotor follows")
            before, found = session.document.machine, session.bench.tries.now.fastest
            row.take.click()
            self.settle(window)
            limits = session.document.machine.axes[1].limits
            self.assertEqual((limits.speed, limits.acceleration), (found.limits.speed, found.limits.acceleration))
            self.assertAlmostEqual(session.trials.move.seconds, found.candidate.seconds)
            session.bench.undo()
            self.assertEqual(session.document.machine, before)
        self.type(ramp.distance, "0")
        row.button.click()
        self.tried(window, lambda tries: tries.now.fault is not None)
        self.assertIn("Nothing moves", row.told.text())

    def test_wrong_limits_are_explained_at_their_fields(self):
        window, ramp = self.station(RAMP, axis=1)
        ramp.side.shape.take("s_curve")
        self.settle(window)
        fields, machine = ramp.fields, window.session.document.machine
        for path, text, words in (
            ("jerk", "1e-8", "takes .* h to reach its speed"),
            ("jerk", "soft", "is no jerk|understood|number"),
            ("avoid", "55 to 40 to 3", "is not a band of speeds"),
            ("avoid", "10 to 20, 15 to 30", "does not lie above the one before"),
            ("avoid", "0 to 20", "above 0"),
            ("margin", "0.9", "at least 1"),
        ):
            self.type(fields[path], text)
            self.assertRegex(fields[path].explanation.text(), words)
            self.assertEqual(window.session.document.machine, machine)
            fields[path].take_back()
        for text, bands in (
            ("20 to 10, 30-35", ((10.0, 20.0), (30.0, 35.0))),
            ("60 to 90 rpm", ((8.0, 12.0),)),
            ("none", None),
        ):
            self.type(fields["avoid"], text)
            self.assertEqual(window.session.document.machine.axes[1].limits.avoid, bands)
        ramp.side.propose.click()
        ((low, high),) = window.session.document.machine.axes[1].limits.avoid
        self.assertAlmostEqual((low + high) / 2 * 25, natural_hz(machine, machine.axes[1]), delta=1.0)

    def test_a_change_of_speed_is_a_ramp_between_two_speeds(self):
        """Typed where the distance stands; its acceleration is dragged; what compares moves is put away; wrong ones are told."""
        window, ramp = self.station(RAMP, axis=1)
        session = window.session
        self.type(ramp.distance, "10 to 30 mm/s")
        self.settle(window)
        self.assertEqual((ramp.distance.text(), ramp.lead.text()), ("10 to 30 mm/s", "a change from"))
        self.assertEqual(ramp.side.values["accelerating"].text(), "0.066667 s, 1.3333 mm")
        self.assertEqual(ramp.sentence.text(), "takes 0.066667 s over 1.3333 mm")
        self.assertIsNone(ramp.chart.ghost)
        self.assertFalse(ramp.cards.isVisible())
        self.assertEqual(list(ramp.chart.picture.handles), ["acceleration"])
        before = session.document.machine
        at = ramp.chart.picture.handles["acceleration"]
        self.drag(ramp.chart, at, at + QPointF(40, 0))
        self.assertLess(session.document.machine.axes[1].limits.acceleration, 300.0)
        session.bench.undo()
        self.assertEqual(session.document.machine, before)
        for text, words in (("30 to 10", "decelerating"), ("1 to 2 rpm", "accelerating")):
            self.type(ramp.distance, text)
            self.settle(window)
            self.assertNotEqual(ramp.side.values[words].text(), "–")
        with Painted() as painted:
            self.type(ramp.distance, "10 to 4000")
            self.settle(window)
        self.assertIn("is not between 0 and the speed of Lift", " ".join(painted.texts))
        self.type(ramp.distance, "fast to slow")
        self.assertTrue(ramp.distance.property("wrong"))
        self.type(ramp.distance, "40mm")
        self.settle(window)
        self.assertTrue(ramp.cards.isVisible())
        self.tried(window, lambda tries: len(tries.now.candidates) == 5)

    def test_the_stall_map_and_the_ramp_as_a_point_on_it(self):
        """The point is dragged and turned by keys; load and margin are dragged as one edit each; all is undone."""
        window, ramp = self.station(RAMP, axis=2)
        session = window.session
        before = session.document.machine
        ramp.chart.setFocus()
        QTest.keyClick(ramp.chart, Qt.Key.Key_PageDown, Qt.KeyboardModifier.ControlModifier)
        self.assertEqual(ramp.face_key, "stall")
        self.tried(window, lambda tries: tries.map is not None and len(tries.map.cells) >= 16)
        chart = ramp.stall.chart
        self.assertIn("follows with the margin", ramp.stall.told.text())
        limits = session.document.machine.axes[2].limits
        at, rate = chart.point(limits.speed, limits.acceleration), limits.acceleration
        self.drag(chart, at, at + QPointF(200, -150))
        limits = session.document.machine.axes[2].limits
        self.assertGreater(limits.speed, 300.0)
        self.assertTrue(limits.acceleration == limits.deceleration > 2 * rate)
        self.assertEqual(session.document.undo_name, "ramp of Reach")
        self.drag(chart, chart.point(limits.speed, limits.acceleration), QPointF(9000, -9000))
        self.settle(window)
        self.assertIn("slips", ramp.stall.told.text())
        session.bench.undo()
        session.bench.undo()
        self.assertEqual(session.document.machine, before)
        self.settle(window)
        chart.setFocus()
        for press, name, value in (
            (Qt.Key.Key_Right, "speed", 126.0), (Qt.Key.Key_Up, "acceleration", 1.05 * rate), (Qt.Key.Key_Left, "speed", 120.0),
        ):  # fmt: skip
            QTest.keyClick(chart, press)
            self.settle(window)
            self.assertAlmostEqual(getattr(session.document.machine.axes[2].limits, name), value, delta=1.0)
        session.bench.undo()
        self.assertEqual(session.document.machine, before)
        shown = session.bench.tries.map
        for path, notch, value in (
            ("load.inertia_kgm2", 150, None),
            ("load.friction_torque_nm", 0, 0.0),
            ("margin", 200, 3.0),
        ):
            slider = ramp.stall.sliders[path]
            slider.setSliderDown(True)
            for share in (0.5, 0.8, 1.0):
                slider.setSliderPosition(round(slider.value() + share * (notch - slider.value())))
            slider.setSliderDown(False)
            changed = Path(path.split(".")).look_up(session.document.machine.axes[2])
            self.assertEqual(changed, value) if value is not None else self.assertGreater(changed, 0)
            session.bench.undo()
            self.assertEqual(session.document.machine, before, path)
        self.tried(window, lambda tries: tries.map is not shown)
        window.resize(1100, 700)
        self.settle(window)
        with Painted() as painted:
            chart.grab()
        self.assertEqual(painted.cut, [])

    def test_handles_are_reached_and_turned_by_keys(self):
        """Page Down goes round the handles, Up and Down change the limit of the one that is reached, as one edit."""
        window, ramp = self.station(RAMP)
        chart, session = ramp.chart, window.session
        chart.setFocus()
        self.assertEqual(chart.reached, "speed")
        order = []
        for _ in range(4):
            QTest.keyClick(chart, Qt.Key.Key_PageDown)
            order.append(chart.reached)
        self.assertEqual(order, ["deceleration", "start_speed", "acceleration", "speed"])
        for key, pressed, expected in (
            ("speed", Qt.Key.Key_Up, 75.0), ("deceleration", Qt.Key.Key_Down, 95.0), ("start_speed", Qt.Key.Key_Down, 4.5),
        ):  # fmt: skip
            while chart.reached != key:
                QTest.keyClick(chart, Qt.Key.Key_PageUp)
            for _ in range(3):
                QTest.keyClick(chart, pressed)
                self.settle(window)
            self.assertAlmostEqual(getattr(session.document.machine.axes[0].limits, key), expected, msg=key)
            session.bench.undo()
            self.settle(window)
            self.assertFalse(session.document.modified, "three presses are one edit")
