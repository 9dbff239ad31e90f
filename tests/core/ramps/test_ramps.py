"""Ramps and the motor that has to follow them: balances of energy, closed forms, and searches that know nothing of them."""

import math
import unittest
from decimal import Decimal

import numpy as np
from msgspec.structs import replace

from kivant.app.document.examples import load_example
from kivant.core.errors import KivantError
from kivant.core.machine import Load
from kivant.core.machine.check import checked
from kivant.core.machine.ramps import with_shape
from kivant.core.motion.trial import trial_move
from kivant.core.motor.demand import demand_of
from kivant.core.motor.following import follow_steps
from kivant.core.motor.resonance import band_of, natural_hz
from kivant.core.motor.spare import jump_at, pull_in_hz, spare_of
from kivant.core.motor.usable import pulled_nm
from kivant.core.ramps.candidates import KINDS, candidate_of, candidates_of, even_delays, with_axis
from kivant.core.ramps.fastest import fastest_ramp
from kivant.core.travel.conversion import steps_per_unit

RIG = load_example()
LIFT = 1


def lift(shape="trapezoid", speed=250.0, rate=4000.0, load=None, **more):
    """Return the demo machine with a lift that is asked for much."""
    axis = RIG.axes[LIFT]
    axis = replace(
        axis,
        load=load or axis.load,
        limits=replace(axis.limits, speed=speed, acceleration=rate, deceleration=rate, min=None, max=None, **more),
    )
    return with_axis(RIG, LIFT, with_shape(axis, shape))


class Demands(unittest.TestCase):
    def test_the_work_of_the_motor_is_that_of_friction_and_weight(self):
        """From rest to rest: what the torque does over the way is what the load takes, whatever the ramp."""
        load = Load(mass_kg=0.6, force_n=4.0, friction_torque_nm=0.004, efficiency=0.8)
        for shape in ("trapezoid", "s_curve", "torque"):
            for distance in ("40", "-40"):
                built = lift(shape, load=load)
                move = trial_move(built, LIFT, Decimal(distance))
                spare = spare_of(built, built.axes[LIFT])
                demand = demand_of(spare, move.axis)
                speeds = np.abs(move.axis.train.speed(demand.times_s)) / 8 * 2 * math.pi / 200
                # At the ends of segments the torque jumps: each is summed by itself, by Simpson's rule.
                times, power = demand.times_s.reshape(-1, 9), (demand.needed_nm * speeds).reshape(-1, 9)
                h = (times[:, -1] - times[:, 0]) / 8
                work = float(np.sum(h / 3 * (power @ np.array([1, 4, 2, 4, 2, 4, 2, 4, 1]))))
                turned = 40 / 8 * 2 * math.pi
                sign = 1 if distance == "40" else -1
                self.assertAlmostEqual(work / (turned * (0.004 + spare.load.pull_nm(sign))), 1.0, delta=2e-3)
                self.assertLessEqual(demand.ratio, 1 / 1.5 + 1e-3 if shape == "torque" else 9.0)

    def test_the_ratio_of_a_constant_acceleration(self):
        built = lift()
        spare = spare_of(built, built.axes[LIFT])
        demand = demand_of(spare, trial_move(built, LIFT, Decimal(60)).axis)
        hz = 250.0 * 25
        torque = spare.load.inertia_kgm2 * 4000 * 2 * math.pi / 8 + spare.load.worst_nm()
        self.assertAlmostEqual(demand.ratio, torque / float(pulled_nm(spare.drive, spare.motor, hz)))

    def test_what_may_be_jumped_to_uses_up_the_torque(self):
        spare = spare_of(RIG, RIG.axes[LIFT])
        hz = pull_in_hz(spare)
        angle = 2 * math.pi / 200
        energy = spare.load.inertia_kgm2 * (hz * angle) ** 2 / 2
        left = float(pulled_nm(spare.drive, spare.motor, hz)) / 1.5 - spare.load.worst_nm()
        self.assertAlmostEqual(left * angle / energy, 1.0, places=6)
        self.assertAlmostEqual(jump_at(spare, 0.0, 1), spare.load.friction_nm + spare.load.pull_nm(1))

    def test_a_rotor_swings_at_its_natural_frequency(self):
        """One microstep of 32, without friction and detent: the time between its turning points is half a period."""
        axis = RIG.axes[LIFT]
        axis = replace(
            axis, driver=replace(axis.driver, microsteps=32), load=Load(inertia_kgm2=2e-6),
            motor=replace(axis.motor, detent_torque_nm=0.0),
        )  # fmt: skip
        built = with_axis(RIG, LIFT, axis)
        trace = follow_steps(built, axis, np.array([0.0]), np.array([1], np.int8), 0.2).trace
        turns = trace.times_s[1:][np.diff(np.sign(trace.speed)) != 0][1:9]
        self.assertAlmostEqual(1 / (2 * float(np.diff(turns).mean())) / natural_hz(built, axis), 1.0, delta=0.05)
        low, high = band_of(built, axis)
        self.assertTrue(low < natural_hz(built, axis) / 25 < high)
        limits = replace(axis.limits, avoid=(band_of(built, axis),))
        checked(with_axis(RIG, LIFT, replace(axis, limits=limits)))


class Candidates(unittest.TestCase):
    def test_a_fixed_amount_off_every_delay_accelerates_ever_harder(self):
        at = even_delays(101, 0.01, 0.001, 30)
        delays = np.diff(at)
        np.testing.assert_allclose(np.diff(delays)[:29], -0.0003)
        np.testing.assert_allclose(delays, delays[::-1])
        self.assertTrue(np.all(np.diff(np.diff(1 / delays[:31])) > 0))
        self.assertEqual(len(even_delays(2, 0.01, 0.001, 30)), 2)
        self.assertEqual(len(even_delays(4, 0.01, 0.001, 30)), 4)

    def test_of_the_same_fast_move_some_follow_and_some_slip(self):
        """No ramp slips, one along the torque follows; the ratio tells it beforehand."""
        found = {kind: candidate_of(lift(), LIFT, Decimal(40), kind) for kind in KINDS}
        self.assertAlmostEqual(found["none"].seconds, 40 / 250)
        self.assertFalse(found["none"].motion.follows)
        self.assertGreater(found["none"].demand.ratio, 5)
        self.assertTrue(found["torque"].motion.follows and found["trapezoid"].motion.follows)
        self.assertLess(found["torque"].demand.ratio, 0.67)
        self.assertGreater(found["even_delays"].seconds, found["trapezoid"].seconds)
        self.assertGreater(found["even_delays"].demand.ratio, found["trapezoid"].demand.ratio)
        for kind in ("none", "trapezoid", "s_curve", "torque"):
            times, speeds = found[kind].curve
            self.assertAlmostEqual(float(np.sum(np.diff(times) * (speeds[1:] + speeds[:-1]) / 2)), 40, delta=0.2)

    def test_a_reason_stands_where_there_is_none(self):
        told = {}
        candidates_of(
            lift(load=Load(force_n=4000.0)), LIFT, Decimal(1), lambda kind, found, why: told.update({kind: why})
        )
        self.assertEqual(list(told), list(KINDS))
        self.assertIn("cannot move its load", told["torque"])
        for distance in ("0", "0.004", "0.01", "-0.02"):
            for kind in KINDS:
                self.assertTrue(candidate_of(RIG, LIFT, Decimal(distance), kind).motion.follows)


class Fastest(unittest.TestCase):
    def test_nothing_within_the_torque_is_faster(self):
        """Against all trapezoids on a grid of speeds and accelerations that keep to the margin everywhere."""
        spare = spare_of(RIG, RIG.axes[LIFT])
        ratio, per_step = float(steps_per_unit(RIG.axes[LIFT])) / 8, 2 * math.pi / 200
        least = {None: math.inf, ((300.0, 420.0),): math.inf}
        for speed in (*np.linspace(5, 500, 120), 300.0):
            hz = np.linspace(0, speed * ratio, 60)
            pulled = pulled_nm(spare.drive, spare.motor, hz) / 1.5
            worst, easiest = (
                spare.load.worst_nm(),
                spare.load.friction_nm + min(spare.load.pull_nm(1), spare.load.pull_nm(-1)),
            )
            scale = 1 / spare.load.inertia_kgm2 / per_step / ratio
            up, down = (pulled.min() - worst) * scale, (pulled.min() + easiest) * scale
            if min(up, down) > 0:
                rise = speed * speed * (1 / up + 1 / down) / 2
                peak = speed if rise <= 40 else math.sqrt(80 / (1 / up + 1 / down))
                takes = 40 / peak + peak * (1 / up + 1 / down) / 2
                for bands in least:
                    if bands is None or not bands[0][0] < speed < bands[0][1]:
                        least[bands] = min(least[bands], takes)
        for bands, seconds in least.items():
            axis = replace(RIG.axes[LIFT], limits=replace(RIG.axes[LIFT].limits, avoid=bands))
            found = fastest_ramp(with_axis(RIG, LIFT, axis), LIFT, Decimal(40), "trapezoid")
            with self.subTest(bands=bands):
                self.assertAlmostEqual(found.candidate.seconds / seconds, 1.0, delta=0.02)
                self.assertTrue(found.candidate.motion.follows)
                self.assertEqual("Lift avoids 300 to 420 mm/s." in " ".join(found.reasons), bands is not None)
                self.assertFalse(bands and 300.0 < found.limits.speed < 420.0)
        self.assertGreater(least[((300.0, 420.0),)], 1.002 * least[None])

    def test_each_shape_is_safe_and_its_limits_can_be_taken(self):
        spans = {}
        for index, distance in ((0, 90), (LIFT, 40), (3, 90)):
            for shape in ("none", "trapezoid", "s_curve", "torque"):
                found = fastest_ramp(RIG, index, Decimal(distance), shape)
                self.assertTrue(found.candidate.motion.follows and found.candidate.motion.greatest_lag_deg <= 160)
                self.assertLess(found.candidate.demand.ratio, 0.68)
                self.assertTrue(all(reason.endswith(".") for reason in found.reasons))
                checked(with_axis(RIG, index, replace(RIG.axes[index], limits=found.limits)))
                spans[index, shape] = found.candidate.seconds
        self.assertLess(spans[LIFT, "trapezoid"], spans[LIFT, "none"] / 4)
        self.assertLess(spans[LIFT, "torque"], spans[LIFT, "trapezoid"] * 1.01)
        self.assertGreater(
            fastest_ramp(RIG, 0, Decimal(90), "trapezoid", margin=3).candidate.seconds, spans[0, "trapezoid"]
        )

    def test_what_cannot_be_found_is_told(self):
        for built, distance, words in (
            (RIG, "0", "Nothing moves"),
            (lift(load=Load(force_n=4000.0)), "40", "cannot move its load.*Lower the load"),
        ):
            with self.assertRaisesRegex(KivantError, words):
                fastest_ramp(built, LIFT, Decimal(distance), "torque")


if __name__ == "__main__":
    unittest.main()
