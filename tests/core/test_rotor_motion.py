"""The simulated rotor against closed forms: oscillations, energy, currents, friction; and rotors known to follow or slip."""

import math
import unittest
from typing import Any

import numpy as np
from msgspec.structs import replace

from kivant.app.document.examples import load_example
from kivant.core.errors import KivantError
from kivant.core.machine import Load
from kivant.core.motor.following import follow
from kivant.core.motor.usable import ability
from kivant.core.plan import plan
from kivant.core.rotor_motion import Motion, Rotor, Winding, simulate
from tests.machines import machine, move

ROTOR = Rotor(teeth=50, inertia_kgm2=6e-6, torque_nm=0.2)
WINDING = Winding(current_a=1.0, resistance_ohm=2.0, inductance_h=3e-3, supply_v=24.0)


def ramp(count: int, rate: float, acceleration: float) -> np.ndarray:
    """Return the instants of full steps that are ever closer, up to a rate."""
    steps = np.arange(1, count + 1)
    meeting = rate * rate / (2 * acceleration)
    return np.where(steps <= meeting, np.sqrt(2 * steps / acceleration), rate / acceleration + (steps - meeting) / rate)


def peaks(motion: Motion) -> tuple[np.ndarray, np.ndarray]:
    """Return when the lag is greatest to either side, and how much it is then, electrical rad."""
    lag = np.radians(motion.trace.lag_deg)
    at = np.flatnonzero((np.diff(np.sign(np.diff(lag))) != 0) & (np.abs(lag[1:-1]) > 1e-4)) + 1
    return motion.times_s[at], lag[at]


class Oscillations(unittest.TestCase):
    def test_a_small_oscillation_has_the_frequency_and_damping_of_the_closed_form(self):
        """After a microstep of 1/64: w = sqrt(p T / J), and each swing is exp(-pi z / sqrt(1 - z^2)) of the one before."""
        rotor = replace(ROTOR, viscous_nms=2e-3)
        omega = math.sqrt(50 * 0.2 / 6e-6)
        damping = 2e-3 / (2 * math.sqrt(6e-6 * 0.2 * 50))
        times, swings = peaks(simulate([0.01], [1], 64, rotor, settle_s=0.05, finer=20))
        half = math.pi / (omega * math.sqrt(1 - damping**2))
        np.testing.assert_allclose(np.diff(times[:6]), half, rtol=5e-3)
        np.testing.assert_allclose(
            swings[1:6] / swings[:5], -math.exp(-math.pi * damping / math.sqrt(1 - damping**2)), rtol=2e-3
        )

    def test_detent_torque_makes_it_stiffer(self):
        times, _swings = peaks(simulate([0.01], [1], 64, replace(ROTOR, detent_nm=0.01), settle_s=0.05, finer=9))
        stiff = math.sqrt(50 * (0.2 + 4 * 0.01) / 6e-6)
        np.testing.assert_allclose(np.diff(times[:6]).mean(), math.pi / stiff, rtol=1e-2)

    def test_coulomb_friction_takes_the_same_off_every_swing_and_then_sticks(self):
        """2 F / K less at each: K is the stiffness at the rotor. In the end nothing moves at all."""
        friction = 2e-4
        _times, swings = peaks(simulate([0.01], [1], 16, replace(ROTOR, friction_nm=friction), settle_s=0.1, finer=8))
        lost = np.abs(swings[:-1]) - np.abs(swings[1:])
        np.testing.assert_allclose(lost[:6], 2 * friction / (0.2 * 50) * 50, rtol=0.05)
        moved = simulate([0.01], [1], 64, replace(ROTOR, friction_nm=0.01), settle_s=0.05)
        self.assertEqual((float(np.abs(moved.speed).max()), float(np.ptp(moved.angle_deg))), (0.0, 0.0), "it sticks")


class Windings(unittest.TestCase):
    def test_a_current_rises_as_resistance_and_inductance_have_it(self):
        """On a rotor that hardly moves, B rises to V / R (1 - exp(-t R / L)) when wave goes from A to B; a chopper stops it."""
        heavy, times = replace(ROTOR, inertia_kgm2=1.0), [0.001]
        plain = simulate(times, [1], "wave", heavy, replace(WINDING, supply_v=2.0, drive="voltage"), settle_s=0.01)
        after = plain.times_s > 0.0011
        rising = 1.0 - np.exp(-(plain.times_s[after] - 0.001) * 2.0 / 3e-3)
        np.testing.assert_allclose(plain.currents_a[after, 1], rising, atol=2e-4)
        chopped = simulate(times, [1], "wave", heavy, WINDING, settle_s=0.01, finer=8)
        at = chopped.times_s[np.argmax(chopped.currents_a[:, 1] > 0.999)]
        self.assertAlmostEqual(at - 0.001, -3e-3 / 2 * math.log(1 - 2 / 24), delta=3e-6)
        self.assertLess(float(np.abs(chopped.currents_a).max()), 1.0 + 1e-6)

    def test_energy_is_kept(self):
        """What the supply gives is in heat, friction, load, the field of the windings and the rotor's motion."""
        rotor = replace(ROTOR, friction_nm=0.02, viscous_nms=2e-4, load_nm=0.01)
        winding = replace(WINDING, supply_v=2.0, drive="voltage")
        motion = simulate(ramp(40, 200.0, 4000.0), np.ones(40), "full", rotor, winding, settle_s=0.05, finer=12)
        trace, t = motion.trace, motion.times_s
        speed = motion.speed * math.pi / 2 / 50
        given = np.trapezoid((trace.volts * trace.currents_a).sum(axis=1), t)
        heat = np.trapezoid(2.0 * (trace.currents_a**2).sum(axis=1), t)
        work = np.trapezoid(2e-4 * speed**2 + 0.02 * np.abs(speed) + 0.01 * speed, t)
        stored = 3e-3 / 2 * (trace.currents_a**2).sum(axis=1) + 6e-6 / 2 * speed**2
        self.assertTrue(motion.follows)
        self.assertAlmostEqual((heat + work + stored[-1] - stored[0]) / given, 1.0, delta=3e-3)
        self.assertGreater(work / given, 0.02, "and the work is no trifle")

    def test_finer_pieces_change_nothing_that_counts(self):
        """Each halving brings the angle nearer to that of the finest, and all are near."""
        rotor, instants = replace(ROTOR, viscous_nms=1e-3), ramp(60, 900.0, 2e4)
        for winding in (None, WINDING, replace(WINDING, drive="voltage", supply_v=12.0)):
            ends = [
                float(simulate(instants, np.ones(60), "full", rotor, winding, 0.002, finer=finer).angle_deg[-1])
                for finer in (1, 2, 4, 16)
            ]
            away = [abs(end - ends[-1]) for end in ends[:-1]]
            self.assertLess(away[0], 2e-3)
            self.assertLess(away[2], away[0] / 2 + 1e-9)


class Following(unittest.TestCase):
    def test_known_followers_and_slippers(self):
        damped = replace(ROTOR, viscous_nms=1e-3, friction_nm=0.01)
        table: list[tuple[Any, Rotor, Any, Any, bool]] = [
            (ramp(400, 800.0, 8000.0), damped, "full", WINDING, True),
            (
                ramp(400, 800.0, 8000.0),
                replace(damped, inertia_kgm2=2e-3),
                "full",
                WINDING,
                False,
            ),  # too heavy to speed up
            (np.arange(1, 401) / 3000.0, damped, "full", WINDING, False),  # too fast at once
            (np.arange(1, 1601) / 1600.0, damped, 4, WINDING, True),
            (ramp(400, 800.0, 8000.0), replace(damped, load_nm=0.4), "full", WINDING, False),  # more than it holds
            (ramp(200, 400.0, 4000.0), damped, "half", replace(WINDING, drive="voltage", supply_v=6.0), True),
            (ramp(200, 400.0, 4000.0), damped, (1, 3, 2, 6, 4, 12, 8, 9), WINDING, True),
        ]
        for instants, rotor, mode, winding, follows in table:
            motion = simulate(instants, np.ones(len(instants)), mode, rotor, winding)
            self.assertEqual(motion.follows, follows, (mode, rotor))
            per_step = {"full": 1.0, "half": 0.5, 4: 0.25}.get(mode, 0.5)
            self.assertEqual(motion.final_full_steps + motion.slipped_full_steps, len(instants) * per_step)
            self.assertEqual(motion.slipped_full_steps % 4, 0, "it falls into step again after whole electrical turns")
            if not follows:
                self.assertGreater(motion.greatest_lag_deg, 180.0)
                self.assertIsNotNone(motion.first_slip_s)
        back = simulate(np.arange(1, 401) / 3000.0, -np.ones(400), "full", damped, WINDING)
        self.assertGreater(back.slipped_full_steps, 0, "it falls behind that way, too")
        self.assertAlmostEqual(back.final_full_steps - back.slipped_full_steps, -400.0)

    def test_where_a_load_pulls_the_rotor_to(self):
        """sin(lag) is load over torque, in a microstep driver's field."""
        motion = simulate([], [], 8, replace(ROTOR, load_nm=0.1, viscous_nms=2e-3), settle_s=0.2)
        self.assertAlmostEqual(float(motion.trace.lag_deg[-1]), 30.0, places=3)
        self.assertLess(float(np.abs(motion.speed).max()), 1e-6, "it begins at rest")

    def test_the_demo_follows_and_does_not_where_it_is_asked_for_more_than_it_has(self):
        rig = load_example()
        made = plan(rig, "Three bands")
        motions = [follow(rig, axis) for axis in made.axes]
        self.assertEqual([motion.follows for motion in motions], [True] * 4)
        wheel = rig.axes[0]
        for share, follows in ((0.6, True), (1.6, False)):
            speed = share * ability(rig, wheel, 1.0).speed
            fast = replace(
                wheel, limits=replace(wheel.limits, speed=speed, start_speed=0.0), load=Load(friction_torque_nm=5e-4)
            )
            made = plan(replace(machine(fast, blocks=(move(by={"Wheel": "200"}),)), supplies=rig.supplies))
            self.assertEqual(follow(made.machine, made.axes[0]).follows, follows, share)

    def test_how_it_rings_and_when_it_rests(self):
        """After a full step at once it swings nearly as far beyond, and dies away by its damping's envelope."""
        rotor = replace(ROTOR, viscous_nms=2e-3)
        found = simulate([0.01], [1], 64, rotor, settle_s=0.4, finer=4)
        self.assertAlmostEqual(sum(found.trace.ringing(0.2)), 0.0)
        decay = 2e-3 / (2 * 6e-6)  # 1/s
        whole = simulate([0.01], [1], "full", rotor, settle_s=0.4, finer=4)
        swing, rests_s = whole.trace.ringing(0.01)
        self.assertTrue(0.3 < swing < 1.0, swing)
        self.assertAlmostEqual(rests_s, math.log(1 / 0.05) / decay, delta=0.006)
        self.assertEqual(len(whole.trace.slips_s), 0)

    def test_slips_are_told_one_by_one_and_a_simulation_may_end_at_the_first(self):
        """Four full steps for each turn that is lost; checkpoints come now and then, and what they raise ends it."""
        instants, signs = ramp(400, 9000.0, 4e5), np.ones(400, np.int64)
        whole = simulate(instants, signs, "full", ROTOR, WINDING, traced=True)
        self.assertFalse(whole.follows)
        self.assertEqual(4 * len(whole.trace.slips_s), abs(whole.slipped_full_steps))
        begun = whole.first_slip_s or 0.0
        self.assertTrue(0.0 < begun < whole.trace.slips_s[0] < begun + 0.02)
        first = simulate(instants, signs, "full", ROTOR, WINDING, until_slip=True)
        self.assertEqual((first.follows, first.first_slip_s), (False, whole.first_slip_s))
        again = simulate(instants, signs, "full", ROTOR, WINDING)
        np.testing.assert_array_equal(again.trace.lag_deg, whole.trace.lag_deg)

        class EndedError(Exception):
            pass

        seen = []

        def end() -> None:
            seen.append(1)
            if len(seen) > 3:
                raise EndedError

        with self.assertRaises(EndedError):
            simulate(np.arange(1, 400) / 2.0, np.ones(399, np.int64), "full", ROTOR, WINDING, checkpoint=end)

    def test_what_cannot_be_simulated_is_refused(self):
        for change, said in (
            ({"rotor": replace(ROTOR, inertia_kgm2=0.0)}, "above 0"), ({"rotor": replace(ROTOR, friction_nm=-1.0)}, "friction_nm"),
            ({"winding": replace(WINDING, inductance_h=-1.0)}, "inductance_h"), ({"mode": "quarter"}, "“quarter” is none"),
            ({"mode": 8, "winding": replace(WINDING, drive="voltage")}, "no microsteps"), ({"signs": [1, 0]}, "a sign, 1 or -1"),
            ({"instants_s": [0.2, 0.1]}, "do not ascend"), ({"instants_s": [0.1, 1e9]}, "would be simulated in"),
            ({"instants_s": [0.1, math.nan]}, "a sign"),
        ):  # fmt: skip
            asked: dict[str, Any] = {
                "instants_s": [0.1, 0.2],
                "signs": [1, 1],
                "mode": "full",
                "rotor": ROTOR,
                "winding": WINDING,
            }
            with self.assertRaisesRegex(KivantError, said):
                simulate(**{**asked, **change})
