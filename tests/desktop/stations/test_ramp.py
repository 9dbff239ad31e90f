"""The Ramp station: handles dragged and turned by keys, figures of the trial move."""

from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QWidget

from tests.desktop.painted import Painted
from tests.desktop.stations.base import RAMP, StationTest


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
