"""Tries: candidates, the fastest ramp and the map come one after another; what is not wanted any more is dropped."""

import unittest
from decimal import Decimal
from unittest import mock

from msgspec.structs import replace

from kivant.app.document.examples import load_example
from kivant.app.planning.background import Calm
from kivant.app.planning.tries import Tries
from kivant.core.ramps.candidates import KINDS, with_axis
from tests.patience import wait_until

RIG = load_example()
LIFT, REACH = 1, 2


class Wishes(unittest.TestCase):
    def setUp(self):
        self.tries = Tries(lambda act: act(), Calm())
        self.addCleanup(self.tries.close)

    def lift(self, **limits):
        return with_axis(RIG, LIFT, replace(RIG.axes[LIFT], limits=replace(RIG.axes[LIFT].limits, **limits)))

    def test_candidates_come_for_what_was_asked_last(self):
        told = []
        self.tries.changed.connect(lambda: told.append(len(self.tries.now.candidates)))
        for speed in (10.0, 20.0, 30.0):
            self.tries.wish(self.lift(speed=speed), LIFT, Decimal(5))
        wait_until(lambda: len(self.tries.now.candidates) == len(KINDS))
        self.assertAlmostEqual(self.tries.now.candidates["none"].seconds, 5 / 30)
        self.assertEqual(told[-5:], [1, 2, 3, 4, 5])
        known = self.tries.now
        self.tries.wish(self.lift(speed=30.0), LIFT, Decimal(5))
        self.assertIs(self.tries.now, known, "it is known already")
        other = replace(self.lift(speed=30.0), name="renamed")
        self.tries.wish(other, LIFT, Decimal(5))
        self.assertIs(self.tries.now, known, "another name of the machine is no other ramp")

    def test_why_there_is_none(self):
        heavy = with_axis(RIG, LIFT, replace(RIG.axes[LIFT], load=replace(RIG.axes[LIFT].load, force_n=5000.0)))
        self.tries.seek(heavy, LIFT, Decimal(5))
        wait_until(lambda: self.tries.now.fault is not None and len(self.tries.now.reasons) >= 1)
        self.assertIn("cannot move its load", self.tries.now.fault.message)
        self.assertFalse(self.tries.seeking)
        self.assertIn("torque", self.tries.now.reasons)

    def test_the_fastest_is_that_of_the_axis_shape_and_of_what_was_asked_last(self):
        self.tries.seek(RIG, LIFT, Decimal(5))
        self.tries.seek(self.lift(shape="none"), LIFT, Decimal(40))
        wait_until(lambda: self.tries.now.fastest is not None)
        self.assertEqual(self.tries.now.fastest.shape, "none")
        self.assertTrue(self.tries.now.fastest.candidate.motion.follows)

    def test_a_map_is_made_once_and_given_up_when_nobody_looks(self):
        self.tries.wish_map(RIG, REACH)
        wait_until(lambda: self.tries.map is not None)
        first = self.tries.map
        self.tries.rest()
        self.assertIs(self.tries.map, first, "what is known stays to be seen")
        self.tries.wish_map(RIG, REACH)
        wait_until(lambda: self.tries.map.done)
        whole = self.tries.map
        slower = with_axis(RIG, REACH, replace(RIG.axes[REACH], limits=replace(RIG.axes[REACH].limits, speed=50.0)))
        self.tries.wish_map(slower, REACH)
        self.tries.rest()
        self.assertIs(self.tries.map, whole, "another speed is another point of the same map")
        self.tries.wish_map(RIG, LIFT)
        self.assertIsNone(self.tries.map, "it is another axis's")
        self.tries.forget()
        self.assertIsNone(self.tries.map)

    def test_all_that_cannot_be_simulated_says_why(self):
        """What a person can put right is told in its own words, an error of the code's own as one."""
        odd = with_axis(RIG, LIFT, replace(RIG.axes[LIFT], motor=replace(RIG.axes[LIFT].motor, inductance_mh=1e-12)))
        for place, said in (
            (None, "Check the motor's inductance"),
            ("kivant.core.rotor_motion.RotorError", "KeyError"),
        ):
            with self.subTest(place=place), mock.patch(place or "threading.excepthook", side_effect=KeyError):
                self.tries.forget()
                with mock.patch("threading.excepthook"):
                    self.tries.seek(odd, LIFT, Decimal(5))
                    self.tries.wish_map(odd, LIFT)
                    wait_until(lambda: self.tries.map_fault and self.tries.now.done and not self.tries.seeking)
                self.assertIn(said, self.tries.now.fault.said)
                self.assertIn(said, self.tries.map_fault.said)
                self.assertIn(said, self.tries.now.reasons["trapezoid"])


if __name__ == "__main__":
    unittest.main()
