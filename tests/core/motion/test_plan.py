"""Plans: limits, coordination, waits, and positions that never drift."""

import unittest
from decimal import Decimal
from fractions import Fraction

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from kivant.core.machine import Pause, Routine
from kivant.core.plan import PlanError, plan
from kivant.core.travel.conversion import nearest_step
from tests.machines import coil_axis, limits, machine, move, screw_axis


class Limits(unittest.TestCase):
    @settings(max_examples=60)
    @given(
        st.lists(st.tuples(st.decimals(-90, 90, places=3), st.decimals(-60, 60, places=3)), min_size=1, max_size=6),
        st.booleans(),
    )
    def test_every_move_is_straight_together_and_within_limits(self, targets, jumpy):
        """Random routines of two axes: the straight line, the same begin and end, every limit kept."""
        start = 3.0 if jumpy else 0.0
        lift = screw_axis(limits=limits(40.0, 300.0, 500.0, start))
        disc = coil_axis(first_line=4, limits=limits(200.0, 900.0, 700.0, 5 * start))
        blocks = tuple(move(to={"Lift": str(a), "Disc": str(b)}) for a, b in targets)
        made = plan(machine(lift, disc, blocks=blocks))
        for axis in made.axes:
            self.assertLessEqual(axis.peak_speed, axis.axis.limits.speed * (1 + 1e-9))
            self.assertLessEqual(
                axis.peak_acceleration,
                max(axis.axis.limits.acceleration, axis.axis.limits.deceleration) * (1 + 1e-9),
            )
            position = np.concatenate(([0], np.cumsum(axis.signs, dtype=np.int64)))
            self.assertEqual(position[-1], axis.final_steps)
            same_way = np.diff(axis.signs) == 0
            least = 1 / (axis.axis.limits.speed * float(axis.steps_per_unit))
            self.assertGreaterEqual(float(np.min(np.diff(axis.instants)[same_way], initial=1.0)), least * (1 - 1e-9))
        before: tuple[Fraction, ...] = (Fraction(0), Fraction(0))
        for block, target in zip(made.blocks, targets, strict=True):
            after = tuple(Fraction(t) for t in target)
            times = np.linspace(block.begin_s, block.end_s, 25)
            share = [
                (a.ideal(times) / float(a.steps_per_unit) - float(p)) / float(q - p) if q != p else None
                for a, p, q in zip(made.axes, before, after, strict=True)
            ]
            if share[0] is not None and share[1] is not None:
                np.testing.assert_allclose(share[0], share[1], atol=1e-6)
            for axis, q in zip(made.axes, after, strict=True):
                self.assertAlmostEqual(float(axis.ideal(block.end_s)), float(q * axis.steps_per_unit), places=6)
            before = after

    def test_the_board_or_the_driver_may_be_slower_than_the_wish(self):
        """Whichever pulse rate is the least holds, and the plan takes accordingly longer."""
        table = [  # driver's pulse times, the board's rate, the rate to expect
            ({"pulse_high_us": 2.0, "pulse_low_us": 2.0}, 5e3, 5e3),
            ({"pulse_high_us": 150.0, "pulse_low_us": 50.0}, 1e5, 1 / 200.001e-6),
            ({}, 1e6, 8000.0),
        ]
        for driver, board_hz, expected in table:
            axis = screw_axis(driver=driver)
            made = plan(machine(axis, blocks=(move(to={"Lift": "500"}),), max_pulse_hz=board_hz))
            self.assertAlmostEqual(made.axes[0].peak_pulse_hz / expected, 1.0, places=9)
            self.assertGreaterEqual(float(np.diff(made.axes[0].instants).min()), (1 - 1e-9) / expected)

    def test_positions_outside_the_limits_make_no_plan(self):
        """The message names the block, the axis and the bound; all of them are told at once."""
        axis = screw_axis(limits=limits(min=Decimal(0), max=Decimal(180)))
        blocks = (move(to={"Lift": "181"}), Pause(seconds=1.0), move(by={"Lift": "-182"}))
        with self.assertRaisesRegex(
            PlanError, r"blocks\[0\]\.to\.Lift: Lift would go to 181 mm, beyond its max of 180"
        ) as caught:
            plan(machine(axis, blocks=blocks))
        self.assertEqual(
            [str(f.place) for f in caught.exception.faults],
            ["routines[0].blocks[0].to.Lift", "routines[0].blocks[2].by.Lift"],
        )
        plan(machine(axis, blocks=(move(to={"Lift": "180"}), move(to={"Lift": "0"}))))


class Positions(unittest.TestCase):
    def test_relative_moves_never_drift(self):
        """A thousand times a tenth of a degree is a hundred degrees, though each is a ninth of a step."""
        disc = coil_axis()
        blocks = tuple(move(by={"Disc": "0.1"}) for _ in range(1000))
        made = plan(machine(disc, blocks=blocks)).axis("Disc")
        self.assertEqual((made.final_steps, made.steps), (111, 111))
        self.assertEqual(made.train.ends.end, Fraction(1000, 9))
        after = np.cumsum(made.signs)
        self.assertEqual(after[-1], nearest_step(Fraction(1000, 9)))

    def test_a_routine_may_start_elsewhere(self):
        made = plan(machine(screw_axis(), blocks=(move(by={"Lift": "-2"}),), start={"Lift": "10.0025"}))
        axis = made.axis("Lift")
        self.assertEqual((axis.start_steps, axis.final_steps, axis.steps), (2001, 1601, 400))

    def test_moves_of_nothing_and_less_than_a_step(self):
        """A zero-length move takes no time; one shorter than a step takes time and no step."""
        made = plan(
            machine(
                screw_axis(),
                blocks=(move(by={"Lift": "0"}), move(to={"Lift": "0.002"}), move(by={"Lift": "0"})),
            )
        )
        self.assertEqual(made.axes[0].steps, 0)
        lengths = [b.end_s - b.begin_s for b in made.blocks]
        self.assertEqual((lengths[0], lengths[2]), (0.0, 0.0))
        self.assertAlmostEqual(lengths[1], 2 * (0.002 / 300) ** 0.5)

    def test_an_empty_routine_and_a_machine_without_axes(self):
        self.assertEqual(plan(machine(blocks=(Pause(seconds=2.5),))).duration, 2.5)
        self.assertEqual(plan(machine(screw_axis())).duration, 0.0)


class Time(unittest.TestCase):
    def test_the_lead_in_is_that_of_the_slowest_driver_with_an_enable_line(self):
        """Motion begins after it, and the duration has it in."""
        first = screw_axis(enable="P8", driver={"enable_lead_us": 1500.0})
        second = screw_axis("Reach", 2, driver={"enable_lead_us": 9000.0})  # no EN line: its lead counts for nothing
        made = plan(machine(first, second, blocks=(move(to={"Reach": "3"}),)))
        self.assertAlmostEqual(made.lead_in_s, 1.5e-3)
        self.assertAlmostEqual(made.duration, 1.5e-3 + 2 * (3 / 300) ** 0.5)
        self.assertGreater(made.axis("Reach").instants[0], 1.5e-3)

    def test_a_reversal_waits_for_set_up_and_hold_and_no_longer(self):
        """Without need there is no wait; where the direction line would be late, just what is missing."""
        jump = limits(40.0, 300.0, start=40.0)
        for setup_us, hold_us in ((5.0, 5.0), (400.0, 300.0), (0.0, 0.0)):
            times = {"direction_setup_us": setup_us, "direction_hold_us": hold_us}
            axis = screw_axis(limits=jump, driver=times)
            made = plan(machine(axis, blocks=(move(to={"Lift": "1.0024"}), move(to={"Lift": "0"}))))
            turn = int(np.flatnonzero(np.diff(made.axes[0].signs))[0])
            gap = made.axes[0].instants[turn + 1] - made.axes[0].instants[turn]
            free = 2 * (200.48 - 199.5) / 8000
            needed = (setup_us + max(hold_us, 2.0) + 0.002) * 1e-6
            self.assertAlmostEqual(gap, max(free, needed), delta=2e-9, msg=f"{setup_us}+{hold_us}")

    def test_the_first_pulse_waits_for_the_direction(self):
        """The direction is set at time 0: a jump that would step sooner than the set-up allows begins later."""
        for setup_us, first_s in ((20.0, 20.001e-6), (0.0, 0.5 / 100_000)):
            fast = limits(500.0, 300.0, start=500.0)
            axis = screw_axis(limits=fast, driver={"direction_setup_us": setup_us})
            made = plan(machine(axis, blocks=(move(to={"Lift": "-1"}),)))
            self.assertAlmostEqual(made.axes[0].instants[0], first_s, delta=1e-10)

    def test_blocks_follow_one_another(self):
        axis = screw_axis()
        made = plan(machine(axis, blocks=(move(to={"Lift": "5"}), Pause(seconds=0.25), move(to={"Lift": "9"}))))
        ends = [(b.begin_s, b.end_s) for b in made.blocks]
        self.assertEqual(ends[0][1], ends[1][0])
        self.assertAlmostEqual(ends[1][1] - ends[1][0], 0.25)
        self.assertEqual(ends[2][1], made.duration)

    def test_too_many_steps_are_refused_beforehand(self):
        """With the estimate; nothing is allocated."""
        with self.assertRaisesRegex(
            PlanError, r"^routines\[0\]: The plan would have 2e\+14 steps and take 1.8e\+06 GB"
        ):
            plan(machine(screw_axis(), blocks=(move(to={"Lift": "1e12"}),)))
        with self.assertRaisesRegex(
            PlanError, r"^routines\[0\]\.blocks\[0\]: Lift would stand at step 2e\+16; the limit is 1e\+15"
        ):
            plan(machine(screw_axis(), blocks=(move(to={"Lift": "1e14"}),)))
        with self.assertRaisesRegex(PlanError, r"Lift would stand at step"):
            plan(machine(screw_axis(), start={"Lift": "-1e14"}))
        slow = screw_axis(limits=limits(1e-9, 1e-9))
        for blocks in ((move(to={"Lift": "9"}),), (Pause(seconds=1e7),) * 101):
            with self.assertRaisesRegex(
                PlanError, r"^routines\[0\]\.blocks\[\d+\]: The plan would take .* years; the limit is 32"
            ):
                plan(machine(slow, blocks=blocks))
        with self.assertRaisesRegex(PlanError, "may be used"):
            plan(machine(screw_axis(), blocks=(move(to={"Lift": "10"}),)), most_bytes=10_000)

    def test_an_unknown_routine_is_named_with_those_there_are(self):
        with self.assertRaisesRegex(PlanError, "no routine “jump”. Use one of “test”"):
            plan(machine(screw_axis()), "jump")
        with self.assertRaisesRegex(PlanError, "has no routine"):
            plan(replace(machine(screw_axis()), routines=()))
        self.assertEqual(plan(machine(screw_axis()), Routine(name="else")).duration, 0.0)
