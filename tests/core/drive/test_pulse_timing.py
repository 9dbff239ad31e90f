"""Pulse timing: what is drawn of a driver's lines is what its times say, counted by hand."""

import unittest

from kivant.core.drive.pulse_timing import pulse_timing
from tests.machines import pair_axis, screw_axis


class Timing(unittest.TestCase):
    def test_pulses_hold_and_set_up_follow_one_another(self):
        """2 us high and low, 5 us hold and set-up: the turn is at 4 + 5, the step back 5 later, the end 4 after that."""
        timing = pulse_timing(screw_axis(enable="P9").driver)
        self.assertEqual(
            (timing.high_us, timing.period_us, timing.turn_us, timing.last_us, timing.total_us), (2, 4, 9, 14, 18)
        )
        step, direction = timing.lines
        self.assertEqual((step.key, step.before, direction.key, direction.before), ("STEP", 0, "DIR", 1))
        self.assertEqual(step.changes, ((0, 1), (2, 0), (4, 1), (6, 0), (14, 1), (16, 0)))
        self.assertEqual(direction.changes, ((9, 0),))

    def test_two_pulse_lines_and_levels_the_other_way(self):
        timing = pulse_timing(pair_axis(pulse_active="low", direction_hold_us=0.0, direction_setup_us=1.0).driver)
        self.assertEqual((timing.turn_us, timing.last_us), (6, 8), "a pulse is over, and a pause after it, in any case")
        clockwise, counter = timing.lines
        self.assertEqual((clockwise.before, counter.before), (1, 1))
        self.assertEqual(clockwise.changes, ((0, 0), (2, 1), (4, 0), (6, 1)))
        self.assertEqual(counter.changes, ((8, 0), (10, 1)))
