"""The stall map: its cells are what a planned move's rotor does, its finer maps differ at borders only, it can be ended."""

import unittest
from decimal import Decimal

import numpy as np
from msgspec.structs import replace

from kivant.app.document.examples import load_example
from kivant.core.motion.trial import trial_move
from kivant.core.motor.following import follow_steps
from kivant.core.ramps.candidates import with_axis
from kivant.core.ramps.stall_map import (
    FOLLOWS,
    SIZES,
    SLIPS,
    SURE,
    UNKNOWN,
    model_line,
    ramp_instants,
    ranges_of,
    stall_map,
)

RIG = load_example()
REACH = 2


def asked(speed, rate):
    """Return the demo machine whose reach goes up to a speed at an acceleration."""
    axis = RIG.axes[REACH]
    limits = replace(
        axis.limits, speed=speed, acceleration=rate, deceleration=rate, start_speed=0.0, min=None, max=None
    )
    return with_axis(RIG, REACH, replace(axis, limits=limits))


class Instants(unittest.TestCase):
    def test_they_are_those_of_the_plan(self):
        """Long moves and ones that hardly reach their speed, against the planner's own."""
        for speed, rate, cruise in ((300.0, 20_000.0, 8.0), (40.0, 900.0, 200.0), (900.0, 9e4, 1.0)):
            found = ramp_instants(speed * 80, rate * 80, cruise)
            planned = trial_move(asked(speed, rate), REACH, Decimal(len(found)) / 80)
            np.testing.assert_allclose(found, planned.axis.instants - planned.begin_s, rtol=1e-9, atol=1e-9)


class Maps(unittest.TestCase):
    def test_cells_are_what_a_planned_move_does(self):
        maps = []
        stall_map(RIG, RIG.axes[REACH], maps.append, sizes=(8, 16))
        done = [found for found in maps if len(found.cells) == 16][-1]
        self.assertTrue(done.done and not maps[0].done)
        self.assertFalse(np.any(done.cells == UNKNOWN))
        self.assertEqual(set(np.unique(done.cells)), {SLIPS, FOLLOWS, SURE})
        self.assertLess(done.simulated, 16 * 16 + 64)
        speeds, rates = done.ranges.at(16)
        for row, column in ((0, 0), (2, 3), (8, 8), (15, 15), (15, 8), (12, 15)):
            machine = asked(float(speeds[column]), float(rates[row]))
            steps = ramp_instants(speeds[column] * 80, rates[row] * 80, 8 * 16)
            signs = np.ones(len(steps), np.int8)
            follows = follow_steps(machine, machine.axes[REACH], steps, signs, 0.02).follows
            self.assertEqual(follows, done.cells[row, column] != SLIPS, (row, column))

    def test_gentle_is_sure_and_the_model_bounds_what_follows(self):
        """Slow and soft follows with the margin; far beyond the torque model it slips: both agree within a third."""
        maps = []
        stall_map(RIG, RIG.axes[REACH], maps.append, sizes=(8,))
        cells, (speeds, rates) = maps[-1].cells, maps[-1].ranges.at(8)
        self.assertTrue(np.all(cells[:4, :4] == SURE))
        lines = model_line(RIG, RIG.axes[REACH], maps[-1].ranges, 1.0)
        allowed = np.interp(speeds, *lines)
        beyond = rates[:, None] > 1.4 * allowed
        beyond[:, :2] = False  # at a few full steps a jump is no more than the rotor can take
        self.assertTrue(np.all(cells[beyond] == SLIPS))

    def test_it_spans_what_is_asked_for_and_ends_when_it_is_not_wanted(self):
        for speed, rate in ((0.5, 1.0), (40.0, 300.0), (1e5, 1e7)):
            machine = asked(speed, rate)
            ranges = ranges_of(machine, machine.axes[REACH])
            self.assertTrue(ranges.least <= rate <= ranges.most and speed <= ranges.speed * 1.05, (speed, rate, ranges))

        class EndedError(Exception):
            pass

        def end() -> None:
            raise EndedError

        with self.assertRaises(EndedError):
            stall_map(RIG, RIG.axes[REACH], lambda _map: None, end, sizes=SIZES)


if __name__ == "__main__":
    unittest.main()
