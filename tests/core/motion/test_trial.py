"""Trial moves: one axis by itself, and the figures asked about it."""

import unittest
from decimal import Decimal

from msgspec.structs import replace

from kivant.app.document.examples import SEEDLING_SETTER, load_example
from kivant.core.motion.trial import trial_move
from kivant.core.plan import PlanError
from kivant.core.ramps.speed_change import speed_change
from kivant.core.travel.conversion import steps_per_unit
from tests.machines import machine, move, screw_axis

RIG = load_example()
WHEEL, LIFT, REACH, TILT = range(4)


class Trials(unittest.TestCase):
    def test_a_trial_move_is_the_move_by_itself(self):
        """Up, on and down add up to the distance and the time; end stops do not matter; the figures are the plan's."""
        for index, distance in ((WHEEL, "90"), (LIFT, "-500"), (REACH, "0.4"), (TILT, "3000")):
            found = trial_move(RIG, index, Decimal(distance))
            seconds = sum(phase.seconds for phase in found.phases)
            self.assertAlmostEqual(seconds, found.seconds)
            self.assertAlmostEqual(sum(phase.distance for phase in found.phases), abs(float(distance)))
            self.assertEqual(len(found.intervals_s), max(found.axis.steps - 1, 0))
        self.assertEqual(
            [phase.name for phase in trial_move(RIG, REACH, Decimal("0.4")).phases], ["acceleration", "deceleration"]
        )
        self.assertEqual(trial_move(RIG, WHEEL, Decimal(0)).phases, ())
        self.assertEqual(trial_move(RIG, WHEEL, Decimal(90)).pulse_limit_hz, 100_000.0)

    def test_a_trial_move_too_long_is_refused(self):
        with self.assertRaisesRegex(PlanError, "GB of memory|the limit is"):
            trial_move(RIG, LIFT, Decimal("1e9"))
        heavy = replace(RIG.axes[LIFT], margin=99.0, limits=replace(RIG.axes[LIFT].limits, shape="torque"))
        with self.assertRaisesRegex(PlanError, r"axes\[1\].limits.shape: .*cannot move its load"):
            trial_move(replace(RIG, axes=(RIG.axes[0], heavy)), LIFT, Decimal(5))

    def test_an_axis_that_carries_a_tool_is_tried_by_itself(self):
        arm = load_example(SEEDLING_SETTER)
        for index, axis in enumerate(arm.axes):
            found = trial_move(arm, index, Decimal(30))
            self.assertEqual(found.axis.steps, round(30 * steps_per_unit(axis)))
            self.assertLessEqual(found.axis.peak_speed, axis.limits.speed * (1 + 1e-9))
            change = speed_change(arm, index, 0.0, axis.limits.speed)
            self.assertAlmostEqual(change.axis.peak_speed, axis.limits.speed)

    def test_a_trial_move_leaves_routines_out(self):
        long = machine(screw_axis(), blocks=(move(to={"Lift": "5"}),) * 1000)
        self.assertEqual(len(trial_move(long, 0, Decimal(1)).plan.blocks), 1)
