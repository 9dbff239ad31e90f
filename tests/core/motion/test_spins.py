"""Spins: speeds of their own, changed on ramps without a stop."""

from __future__ import annotations

import unittest
from decimal import Decimal
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from kivant.core.machine import Block, Call, Machine, Move, Note, Pause, Repeat, Routine, Spin
from kivant.core.machine.parts import Calibration, Load
from kivant.core.motion.plan import Plan
from kivant.core.plan import PlanError, plan
from kivant.core.travel.play import play_of
from kivant.core.travel.stages.ratio import Ratio
from tests.machines import MOTOR, coil_axis, limits, machine, move, screw_axis, through_play

D = Decimal
SHAPES: tuple[dict[str, Any], ...] = ({}, {"start": 6.0}, {"jerk": 1500.0}, {"jerk": 40_000.0}, {"shape": "none"})


def wheel(**more: Any) -> Machine:
    """Return a machine of one wheel that turns at up to 90 deg/s."""
    return machine(coil_axis("Wheel", limits=limits(90, 200, 150, **more)))


def spun(own: Machine, *blocks: Block) -> Plan:
    return plan(replace(own, routines=(Routine(name="test", blocks=blocks),)))


def at(speed: float, seconds: float | None = None, **more: Any) -> Spin:
    return Spin(speeds={"Wheel": D(str(speed))}, seconds=seconds, **more)


def speeds(made: Plan, times: Any) -> Any:
    axis = made.axis("Wheel")
    return axis.train.speed(np.asarray(times, float)) / float(axis.steps_per_unit)


def where(made: Plan, times: Any) -> Any:
    axis = made.axis("Wheel")
    return axis.ideal(np.asarray(times, float)) / float(axis.steps_per_unit)


class Spins(unittest.TestCase):
    def test_a_row_is_one_motion_within_all_limits_with_every_shape(self):
        """Speed has no jumps but those from and to rest, and the way is what the speed makes of the time."""
        blocks = (at(60, 2.0), at(20, 1.0), Note(), at(80, 1.5, off=True), at(-40, 2.5), at(-70, 2.0))
        for shape in SHAPES:
            with self.subTest(shape=shape):
                own = wheel(**shape)
                made = spun(own, *blocks)
                self.assertAlmostEqual(made.duration, 7.5, places=9)
                times = np.linspace(0, made.duration, 200_001)
                speed, place = speeds(made, times), where(made, times)
                way = np.concatenate(([0], np.cumsum((speed[1:] + speed[:-1]) / 2 * np.diff(times))))
                np.testing.assert_allclose(place, way, atol=2e-2 if "shape" in shape else 2e-3)
                rate = np.diff(speed) / np.diff(times)
                jump = shape.get("start", 0.0)
                if "shape" not in shape:
                    steep = np.abs(np.diff(speed)) > 220 * np.diff(times)
                    self.assertLessEqual(np.abs(np.diff(speed))[steep].max(initial=0.0), jump + 0.01)
                    self.assertLessEqual(int(steep.sum()), 4)  # begins, turns round (stops and starts), and ends
                if "jerk" in shape:
                    turned = np.abs(np.diff(rate)) / np.diff(times)[1:]
                    self.assertLessEqual(turned.max(), shape["jerk"] * 1.01 + 1e-3)
                for share, wished in ((1.9, 60), (2.9, 20), (5.0, -40)):
                    self.assertAlmostEqual(float(speeds(made, share)), wished, places=6)

    def test_ways_are_those_of_uniform_acceleration(self):
        """Up at 200, down at 150 deg/s², from and to rest: by hand."""
        made = spun(wheel(), at(60, 2.0), at(30, 1.0))
        first = 60 * 2 - 60**2 / (2 * 200)
        second = 30 * 1 + (60 - 30) ** 2 / (2 * 150) - 30**2 / (2 * 150)
        np.testing.assert_allclose(where(made, made.blocks.end_s), (first, first + second), rtol=0, atol=1e-11)

    def test_turns_and_distance_are_exact_and_take_the_ramps_in(self):
        for shape in SHAPES:
            made = spun(
                wheel(**shape), at(60, turns=2), at(-30, distance=45.5), Pause(seconds=0.1), at(7, distance=0.25)
            )
            ends = [made.axis("Wheel").train.ideal_at(float(end)) for end in made.blocks.end_s]
            ratio = float(made.axis("Wheel").steps_per_unit)
            self.assertAlmostEqual(ends[0] / ratio, 720, places=9)
            self.assertAlmostEqual((ends[3] - ends[2]) / ratio, 0.25, places=9)
            times = np.linspace(float(made.blocks.begin_s[1]), float(made.blocks.end_s[1]), 100_001)
            gone = np.abs(np.diff(where(made, times))).sum()  # both ways: it goes on for a while, and turns round
            self.assertAlmostEqual(gone, 45.5, places=6)

    def test_rows_run_over_turns_of_repeats_and_calls(self):
        """Three turns of a repeat, and the same in a call, are one row: nothing stops in between."""
        sub = Routine(name="sub", blocks=(at(50, 1.0),))
        once = Repeat(times=3, blocks=(at(50, 1.0),))
        for blocks in ((once,), (Call(routine="sub"), Repeat(times=2, blocks=(Call(routine="sub"),)))):
            own = replace(wheel(), routines=(Routine(name="test", blocks=blocks), sub))
            made = plan(own)
            self.assertEqual(len(made.blocks), 3)
            np.testing.assert_allclose(speeds(made, (1.0, 2.0)), (50, 50), rtol=1e-9)
            self.assertAlmostEqual(float(where(made, 3.0)), 50 * 3 - 50**2 / 400 - 50**2 / 300, places=9)

    def test_a_spin_that_is_too_short_goes_on_in_the_next(self):
        made = spun(wheel(), at(90, 0.1), at(90, 2.0))
        self.assertAlmostEqual(float(speeds(made, 0.1)), 20, places=9)
        whole = spun(wheel(), at(90, 2.1))
        times = np.linspace(0, 2.1, 1001)
        np.testing.assert_allclose(where(made, times), where(whole, times), rtol=0, atol=1e-9)

    @settings(max_examples=60)
    @given(
        st.lists(st.tuples(st.integers(-90, 90), st.floats(0.02, 2.0)), min_size=1, max_size=5), st.sampled_from(SHAPES)
    )
    def test_a_row_is_planned_or_told_what_it_needs(self, row, shape):
        """What is refused as too short can be done in the time that the message names."""
        blocks = [at(speed, seconds) for speed, seconds in row]
        own = wheel(**shape)
        for _ in range(20):
            try:
                made = spun(own, *blocks)
                break
            except PlanError as error:
                fault = error.faults[0]
                self.assertRegex(fault.said, "at least [0-9.e-]+ s")
                needed = float(fault.said.split("at least ")[1].split(" s")[0])
                index = int(str(fault.place).split("[")[2].split("]")[0])
                blocks[index] = replace(blocks[index], seconds=needed * 1.001)
        else:
            self.fail("never long enough")
        self.assertAlmostEqual(made.duration, sum(block.seconds or 0 for block in blocks), places=9)
        axis = made.axis("Wheel")
        self.assertEqual(int(axis.signs.astype(int).sum()), axis.final_steps)
        self.assertTrue(np.all(np.diff(axis.instants) > 0))

    def test_other_axes_go_on_while_one_is_named_again_or_brakes(self):
        axes = (coil_axis("Wheel", limits=limits(90, 200, 150)), screw_axis("Lift", 4))
        blocks = (
            Spin(speeds={"Wheel": D(60), "Lift": D(20)}, seconds=1.0), Spin(speeds={"Lift": D(20)}, seconds=1.0),
            Spin(speeds={"Lift": D(20)}, seconds=1.0),
        )  # fmt: skip
        made = plan(machine(*axes, blocks=blocks))
        alone = plan(machine(axes[1], blocks=(Spin(speeds={"Lift": D(20)}, seconds=3.0),)))
        np.testing.assert_allclose(made.axis("Lift").instants, alone.axis("Lift").instants, rtol=0, atol=1e-9)
        self.assertAlmostEqual(float(speeds(made, 1.2)), 30, places=9)  # it brakes from the second spin's beginning
        self.assertEqual(float(speeds(made, 1.5)), 0.0)

    def test_moves_after_a_spin_count_from_where_it_ended(self):
        made = spun(wheel(), at(60, 1.0), Move(by={"Wheel": D(10)}), Move(to={"Wheel": D(0)}))
        end = where(made, made.blocks.end_s)
        self.assertAlmostEqual(float(end[1] - end[0]), 10, places=12)
        self.assertEqual((float(end[2]), made.axis("Wheel").final_steps), (0.0, 0))

    def test_play_is_taken_up_before_the_row_and_wrapping_goes_on_from_its_end(self):
        loose = coil_axis("Wheel", limits=limits(90, 200))
        loose = replace(loose, calibration=Calibration(backlash=9.0))
        made = plan(machine(loose, screw_axis("Lift", 4), blocks=(
            Spin(speeds={"Lift": D(5)}, seconds=1.0), Spin(speeds={"Lift": D(5), "Wheel": D(-30)}, seconds=1.0),
        )))  # fmt: skip
        self.assertGreater(made.blocks.end_s[1], 2.1)  # the play is gone through first, while nothing else moves
        self.assertEqual(float(made.axis("Lift").ideal_at(0.05)), 0.0)
        own = plan(machine(coil_axis("Wheel", limits=limits(90, 200, wrap="shortest")), blocks=(
            at(90, turns=3), Move(to={"Wheel": D(10)}),
        )))  # fmt: skip
        self.assertAlmostEqual(float(where(own, own.duration)), 1090, places=9)

    @settings(max_examples=60)
    @given(
        st.lists(st.tuples(st.integers(-90, 90), st.floats(0.4, 2.0)), min_size=1, max_size=6),
        st.sampled_from(SHAPES[:3]), st.floats(0.2, 12.0),
    )  # fmt: skip
    def test_a_wheel_that_turns_round_takes_up_its_play_on_the_way(self, row, shape, backlash):
        """Where the wheel is, is where a drive train with play brings it, by what its motor does."""
        axis = replace(coil_axis("Wheel", limits=limits(90, 200, 150, **shape)), travel=(Ratio(ratio="9"),))
        axis = replace(axis, calibration=Calibration(backlash=round(backlash, 3)))
        blocks = [Spin(speeds={"Wheel": D(speed)}, seconds=seconds + 2.5) for speed, seconds in row]
        made = plan(machine(axis, screw_axis("Lift", 4), blocks=(*blocks, move(to={"Wheel": "3.3"}))))
        own, times = made.axis("Wheel"), np.linspace(0.0, made.duration, 12_001)
        np.testing.assert_allclose(
            own.ideal(times),
            through_play(own.train.ideal(times), play_of(own.axis).steps),
            atol=0.25,  # how far it goes between two looks, at its start speed
        )
        self.assertEqual(int(own.signs.astype(int).sum()), own.final_steps - own.start_steps)
        self.assertTrue(np.all(np.diff(own.instants) > 0))
        turns = [sign for sign in np.sign([speed for speed, _seconds in row]) if sign]
        whole = sum(block.seconds or 0.0 for block in blocks)
        first = float(own.taken.end_s[0]) if turns and turns[0] < 0 else 0.0
        self.assertAlmostEqual(float(made.blocks.end_s[len(row) - 1]), whole + first, places=9)

    def test_spins_along_torque_keep_to_what_the_motor_has(self):
        motor = replace(
            MOTOR,
            current_a=1.4,
            resistance_ohm=1.7,
            inductance_mh=2.9,
            holding_torque_nm=0.34,
            rotor_inertia_kgm2=5.4e-6,
        )
        axis = screw_axis("Lift", driver={"supply_v": 24.0, "current_a": 1.0}, limits=limits(150, 4000, shape="torque"))
        axis = replace(axis, motor=motor, load=Load(inertia_kgm2=2e-5, friction_torque_nm=0.05))
        blocks = (Spin(speeds={"Lift": D(100)}, seconds=1.0), Spin(speeds={"Lift": D(40)}, seconds=1.0))
        made = plan(machine(axis, blocks=blocks))
        lift = made.axis("Lift")
        self.assertAlmostEqual(float(lift.train.speed(0.9)) / float(lift.steps_per_unit), 100, places=6)
        self.assertLess(lift.peak_acceleration, 4000 * (1 + 1e-9))
        fast = (Spin(speeds={"Lift": D(400)}, seconds=1.0),)
        for friction, refused in ((0.1, "by its torque, is"), (0.2, "with its margin it cannot move its load")):
            weak = replace(axis, load=Load(inertia_kgm2=2e-5, friction_torque_nm=friction))
            weak = replace(weak, limits=limits(500, 4000, shape="torque"))
            with self.assertRaisesRegex(PlanError, refused):
                plan(machine(weak, blocks=fast))

    def test_a_row_too_long_for_a_limit_is_told_where_it_passes_it(self):
        own = machine(screw_axis("Lift", limits=limits(max=D(30))))
        blocks = (Spin(speeds={"Lift": D(20)}, seconds=1.0), Spin(speeds={"Lift": D(20)}, seconds=1.0))
        with self.assertRaisesRegex(PlanError, "Lift would go to 38.6667 mm, beyond its max of 30") as caught:
            spun(own, *blocks)
        self.assertEqual(str(caught.exception.faults[0].place), "routines[0].blocks[1].speeds.Lift")
        with self.assertRaisesRegex(PlanError, "100001 spins; the limit is 100000"):
            spun(own, Repeat(times=100_001, blocks=(Spin(speeds={"Lift": D(0)}, seconds=0.0),)))
        self.assertEqual(
            spun(own, move(to={"Lift": "3"}), Spin(speeds={"Lift": D(0)}, seconds=1.0)).axes[0].final_steps, 600
        )
