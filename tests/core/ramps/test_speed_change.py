"""A change of speed under way, against closed forms and an integration, up and down, with every shape of ramp."""

import math
import unittest

import numpy as np
from msgspec.structs import replace

from kivant.app.document.examples import load_example
from kivant.core.machine.ramps import with_shape
from kivant.core.motion.plan import PlanError
from kivant.core.motor.demand import demand_of
from kivant.core.motor.pulling import pulls_of
from kivant.core.motor.spare import spare_of
from kivant.core.ramps.candidates import with_axis
from kivant.core.ramps.speed_change import speed_change

RIG = load_example()
LIFT = 1


def lift(shape, **limits):
    """Return the demo machine with a lift of another shape."""
    axis = RIG.axes[LIFT]
    return with_axis(RIG, LIFT, with_shape(replace(axis, limits=replace(axis.limits, **limits)), shape))


class Changes(unittest.TestCase):
    def test_the_ramp_between_is_that_of_the_shape(self):
        """Trapezoid: the gain over the acceleration. S-curve: the jerk's time more. Both at the mean of the speeds."""
        for shape, extra in (("trapezoid", 0.0), ("s_curve", 400 / 4000)):
            for first, last in ((20.0, 250.0), (250.0, 20.0), (0.0, 250.0), (250.0, 0.0)):
                built = lift(shape, speed=250.0, acceleration=400.0, deceleration=300.0, jerk=None)
                found = speed_change(built, LIFT, first, last)
                rate = 400.0 if last > first else 300.0
                own = abs(last - first) / rate + (extra * rate / 400 if extra else 0.0)
                phases = {phase.name: phase for phase in found.phases}
                ramp = phases["acceleration" if last > first else "deceleration"]
                self.assertAlmostEqual(ramp.seconds, own)
                self.assertAlmostEqual(ramp.distance, own * (first + last) / 2)
                self.assertAlmostEqual(found.corners[0][1], first)
                self.assertAlmostEqual(found.corners[-1][1], last)
                self.assertTrue(np.all(np.diff(found.axis.instants) > 0))
                self.assertEqual(found.change, (first, last))

    def test_along_the_torque_it_takes_what_is_available(self):
        """The time is the integral of 1 / a over the speed, within a hundredth; nothing jumps."""
        built = lift("torque", speed=400.0, acceleration=1e6, deceleration=1e6)
        pull = pulls_of(built, built.axes[LIFT])[0]
        fine = np.linspace(30.0, 400.0, 20_001) * 200
        for key, first, last in (("up", 30.0, 400.0), ("down", 400.0, 30.0)):
            found = speed_change(built, LIFT, first, last)
            best = float(np.trapezoid(1 / np.interp(fine, pull.speeds, getattr(pull, key)), fine))
            ramp = next(phase for phase in found.phases if phase.name != "cruise")
            self.assertTrue(1 - 1e-6 < ramp.seconds / best < 1.01, ramp.seconds / best)
            spare = spare_of(built, built.axes[LIFT])
            demand = demand_of(spare, found.axis, from_rest=False)
            self.assertEqual(demand.jump_ratio, 0.0)
            self.assertLess(demand.ratio, 1 / 1.5 + 1e-3)
            self.assertTrue(math.isclose(found.seconds, 1.5 * ramp.seconds))

    def test_what_is_no_change_is_told(self):
        for shape, first, last, words in (
            ("trapezoid", 20.0, 20.0, "Both speeds are the same"), ("none", 10.0, 20.0, "its speed jumps"),
            ("trapezoid", 20.0, 900.0, "900 mm/s is not between 0 and the speed of Lift"),
            ("trapezoid", -5.0, 10.0, "-5 mm/s is not"),
        ):  # fmt: skip
            with self.assertRaisesRegex(PlanError, words):
                speed_change(lift(shape), LIFT, first, last)
        with self.assertRaisesRegex(PlanError, "takes 1.2e.09 steps"):
            speed_change(lift("trapezoid", speed=400.0, acceleration=0.02), LIFT, 0.0, 400.0)


if __name__ == "__main__":
    unittest.main()
