"""What is left of a plan that was stopped on its path."""

import unittest
from decimal import Decimal
from fractions import Fraction

import numpy as np

from kivant.core.machine import Pause, Spin
from kivant.core.motion.remainder import remainder
from kivant.core.plan import plan
from tests.machines import coil_axis, machine, move, screw_axis
from tests.programs import built


class Remainder(unittest.TestCase):
    def setUp(self) -> None:
        third = move(by={"Lift": "-7.0007"}, speed_factor=0.5)
        blocks = (move(to={"Lift": "20.0003", "Disc": "100"}), Pause(seconds=0.5), third, move(by={"Disc": "33.3"}))
        self.made = plan(machine(screw_axis(), coil_axis(first_line=4), blocks=blocks, start={"Disc": "1.1"}))

    def test_it_ends_where_the_whole_would_have_ended_and_takes_the_rest_of_the_time(self):
        """Stopped anywhere: the targets are reached, on the straight line, and nothing is gone through twice."""
        for share in np.linspace(0.001, 0.999, 41):
            at = float(share) * self.made.duration
            counts = [int(axis.train.steps_at(np.array([at]))[0]) for axis in self.made.axes]
            rest = remainder(self.made, at, counts)
            again = plan(self.made.machine, rest)
            for axis, whole, count in zip(again.axes, self.made.axes, counts, strict=True):
                self.assertEqual((axis.start_steps, axis.final_steps), (count, whole.final_steps))
                self.assertAlmostEqual(float(axis.train.ends.end), float(whole.train.ends.end), delta=1e-12)
            left = self.made.duration - at
            self.assertGreaterEqual(again.duration, left - 1e-3)
            self.assertLess(again.duration, left + 0.3, "braking and going on cost no more than a ramp")

    def test_a_pause_goes_on_and_the_end_leaves_nothing(self):
        pause, counts = self.made.blocks[1], [4000, 111]
        rest = remainder(self.made, pause.begin_s + 0.2, counts)
        self.assertAlmostEqual(rest.blocks[0].seconds, 0.3)
        self.assertEqual(
            (rest.start or {})["Lift"], Decimal("20.0003"), "an axis at rest stands where it was commanded"
        )
        self.assertEqual(len(rest.blocks), 3)
        self.assertIsNone(remainder(self.made, self.made.duration, counts))

    def test_an_axis_that_rests_while_others_spin_stands_where_it_was_commanded(self):
        """Half a step off: at the step that was counted, its relative moves would lead elsewhere."""
        spin, half = Spin(speeds={"Disc": Decimal(90)}, seconds=2.0), Decimal("0.0025")
        built = machine(
            screw_axis(), coil_axis(first_line=4), blocks=(spin, move(by={"Lift": "1"})), start={"Lift": "0.0025"}
        )
        rest = remainder(plan(built), 1.0, (1, 100))
        assert rest is not None and rest.start is not None
        self.assertEqual((rest.start["Lift"], rest.start["Disc"]), (half, Decimal(90)))
        self.assertEqual(plan(built, rest).axes[0].train.ends.end, 200 + Fraction(1, 2))

    def test_programs_go_on_from_anywhere(self):
        """Whatever block was cut short: what is left ends where the whole ends, but for spins, which begin anew."""
        random = np.random.default_rng(9)
        gone_on = 0
        for case in range(60):
            own = built(random)
            made = plan(own)
            at = float(random.uniform(0.01, 0.99)) * made.duration
            counts = [int(axis.train.steps_at(np.array([at]))[0]) for axis in made.axes]
            rest = remainder(made, at, counts)
            if rest is None:
                continue
            cut = made.blocks[int(np.searchsorted(made.blocks.end_s, at, "right"))].block
            with self.subTest(case=case, cut=cut):
                again = plan(own, rest)
                self.assertEqual([axis.start_steps for axis in again.axes], counts)
                left = [block.block for block in made.blocks if block.end_s > at]
                self.assertEqual(len(rest.blocks), len(left))
                if not isinstance(cut, Spin):
                    self.assertEqual(
                        [axis.final_steps for axis in again.axes], [axis.final_steps for axis in made.axes]
                    )
                    gone_on += 1
        self.assertGreater(gone_on, 20)
