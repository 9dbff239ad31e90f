"""Columns: exact numbers, times and memory of long routines, against fractions."""

import random
import tracemalloc
import unittest
from decimal import Decimal
from fractions import Fraction

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from kivant.core.machine import Gear, Pause, Screw
from kivant.core.motion.clock import on_clock
from kivant.core.motion.commanded import AxisTargets
from kivant.core.motion.exact import Ratios, exact
from kivant.core.motion.positions import positions_of
from kivant.core.motion.reach import beyond_limits
from kivant.core.motion.routine import commands
from kivant.core.plan import plan
from kivant.core.travel.conversion import nearest_step, steps_per_unit
from tests.machines import coil_axis, limits, machine, move, screw_axis

decimals = st.decimals(-(10**9), 10**9, allow_nan=False, places=12) | st.decimals(-10, 10, allow_nan=False, places=40)


class Numbers(unittest.TestCase):
    @settings(max_examples=200)
    @given(st.lists(decimals, min_size=1, max_size=9), st.fractions(max_denominator=10**9).filter(bool))
    def test_a_column_holds_what_fractions_hold(self, values, ratio):
        """Products, sums, nearest whole numbers and what is beyond them, whether 64 bits are enough or not."""
        column = exact(values, Ratios.of([ratio, 1 / ratio]), np.array([0] * (len(values) - 1) + [1]))
        fractions = [Fraction(value) * ratio for value in values[:-1]] + [Fraction(values[-1]) / ratio]
        self.assertEqual([column.at(k) for k in range(len(values))], fractions)
        goes = [AxisTargets([0]), AxisTargets([values[-1]])]
        goes[0].keys.extend(range(1, 2 * len(values), 2))
        goes[0].values.extend(values)
        sums = positions_of(
            [own.keys for own in goes], [own.values for own in goes], Ratios.of([ratio, 1 / ratio])
        ).steps
        expected = [sum(map(Fraction, values[:k])) * ratio for k in range(len(values) + 1)] + fractions[-1:]
        self.assertEqual([sums.at(k) for k in range(len(values) + 2)], expected)
        if max(map(abs, fractions)) < 2**62:
            nearest, beyond = column.nearest()
            self.assertEqual(nearest.tolist(), list(map(nearest_step, fractions)))
            for fraction, whole, rest in zip(fractions, nearest.tolist(), beyond.tolist(), strict=True):
                self.assertAlmostEqual(rest, float(fraction - whole), delta=1e-15)
            for fraction, away in zip(fractions, column.from_halves().tolist(), strict=True):
                self.assertAlmostEqual(away, float(abs(fraction % 1 - Fraction(1, 2))), delta=1e-15)

    def test_a_million_relative_moves_drift_by_no_step(self):
        """Ways of a tenth, each a ninth of a step and more: every place is the nearest step to their exact sum."""
        chance, targets, ratio = random.Random(5), AxisTargets([0]), steps_per_unit(coil_axis())
        ways = [chance.randint(-40, 45) for _ in range(1_000_000)]
        for row, way in enumerate(ways):
            targets.keys.append(2 * row + 1)
            targets.values.append(Decimal(way).scaleb(-1))
        steps, _beyond = positions_of([targets.keys], [targets.values], Ratios.of([ratio])).steps.nearest()
        tenths = np.concatenate(([0], np.cumsum(ways)))
        # The nearest multiple of a step, in whole numbers: half a step, away from zero at a tie.
        up, down = ratio.numerator, 10 * ratio.denominator
        expected = np.sign(tenths) * ((2 * np.abs(tenths) * up + down) // (2 * down))
        np.testing.assert_array_equal(steps, expected)

    @settings(max_examples=60)
    @given(st.lists(st.floats(0, 1e5), max_size=50), st.dictionaries(st.integers(0, 49), st.floats(0, 9), max_size=4))
    def test_times_are_sums_to_the_last_digit(self, durations, waits):
        waits = {row: wait for row, wait in waits.items() if row < len(durations)}
        begins, ends = on_clock(0.25, np.array(durations), waits)
        clock = Fraction(1, 4)
        for row, (begin, end) in enumerate(zip(begins.tolist(), ends.tolist(), strict=True)):
            clock += Fraction(waits.get(row, 0.0))
            self.assertAlmostEqual(begin, float(clock), delta=2.0**-52 * float(clock) + 1e-18)
            clock += Fraction(durations[row])
            self.assertAlmostEqual(end, float(clock), delta=2.0**-52 * float(clock) + 1e-18)


class Routines(unittest.TestCase):
    def test_relative_targets_count_from_the_last_absolute_one(self):
        """Positions of thirty digits among short ones: where each block ends is exact."""
        third = Decimal(1) / 3
        blocks = (move(by={"Lift": third}), move(by={"Disc": "1"}), Pause(seconds=0.1), move(by={"Lift": "0.0001"}),
                  move(to={"Lift": "2", "Disc": third}), move(by={"Lift": third}))  # fmt: skip
        made = plan(machine(screw_axis(), coil_axis(first_line=4), blocks=blocks, start={"Lift": "-7"}))
        self.assertEqual(made.axes[0].train.ends.end, (2 + Fraction(third)) * 200)
        self.assertEqual(made.axes[1].train.ends.end, Fraction(third) * Fraction(10, 9))
        ideal = made.axes[0].ideal(made.blocks.end_s) / 200
        np.testing.assert_allclose(
            ideal, [-7 + 1 / 3, -7 + 1 / 3, -7 + 1 / 3, -7 + 1 / 3 + 1e-4, 2, 2 + 1 / 3], rtol=1e-13
        )

    def test_sums_beyond_64_bits_are_not_taken_for_places_too_far_away(self):
        """Each way of twelve decimal places fits them, their sum does not."""
        built = machine(screw_axis(), blocks=(move(by={"Lift": "123.456789012345"}),) * 60)
        self.assertEqual(plan(built).axes[0].final_steps, nearest_step(Fraction("123.456789012345") * 60 * 200))

    def test_many_relative_moves_beyond_a_limit_are_told_at_once(self):
        """Each position is found on the way to the next: not from the beginning for every one of 20,000."""
        bounded = screw_axis(limits=limits(max=Decimal(-1)))
        built = machine(bounded, blocks=(move(by={"Lift": "0.1"}),) * 20_000)
        found = list(beyond_limits(built, built.routines[0], commands(built, built.routines[0])))
        self.assertEqual((len(found), found[-1].position, str(found[-1].path)), (20_000, 2000, "blocks[19999].by.Lift"))

    def test_zeros_of_any_exponent_are_zeros(self):
        """A zero may be written with a thousand million places: nothing is made as long as that."""
        zero = Decimal("0E-999999999")
        bounded = screw_axis(limits=limits(max=Decimal(9)))
        blocks = (
            move(by={"Lift": zero}),
            move(by={"Lift": "0.00000001"}),
            move(to={"Lift": zero}),
            move(by={"Lift": "3"}),
        )
        self.assertEqual(plan(machine(bounded, blocks=blocks)).axes[0].final_steps, 600)

    def test_a_block_and_its_last_piece_end_at_one_number(self):
        """Whatever the durations add up to: no corner of the speed curve lies beside the end of its block."""
        random = np.random.default_rng(4)
        blocks = tuple(
            move(by={"Lift": f"{way:.5f}"}, speed_factor=float(random.uniform(0.1, 1)))
            for way in random.uniform(-9, 9, 300)
        )
        made = plan(machine(screw_axis(), blocks=blocks))
        times = made.axes[0].train.corners()[0]
        self.assertLessEqual({block.end_s for block in made.blocks}, set(times.tolist()))
        self.assertEqual((made.blocks[-1].end_s, float(times[-1])), (made.duration, made.duration))

    def test_an_axis_of_many_digits_may_rest_at_0(self):
        axis = replace(screw_axis(), travel=(Gear(driving=1, driven=9973), Screw(lead=Decimal("0.000333333337"))))
        self.assertGreater(steps_per_unit(axis).numerator, 2**60)
        self.assertEqual(plan(machine(axis, blocks=(Pause(seconds=0.5),))).duration, 0.5)

    def test_a_block_takes_three_hundred_bytes_an_axis_at_the_most(self):
        for axes in (1, 3):
            names = "ABC"[:axes]
            blocks = tuple(move(to=dict.fromkeys(names, str(7 * (k * 37 % 29)))) for k in range(2000))
            built = machine(*(screw_axis(name, 4 * k) for k, name in enumerate(names)), blocks=blocks)
            plan(built)
            tracemalloc.start()
            made = plan(built)
            held = [tracemalloc.get_traced_memory()[0]]
            self.assertGreater(min(axis.steps for axis in made.axes), 0)  # now their steps are counted
            held.append(tracemalloc.get_traced_memory()[0])
            self.assertGreater(min(axis.peak_pulse_hz for axis in made.axes), 0)  # now they are cut into segments
            held.append(tracemalloc.get_traced_memory()[0])
            tracemalloc.stop()
            self.assertLess(max(held) / len(made.blocks) / axes, 300, held)

    def test_blocks_are_a_sequence(self):
        made = plan(machine(screw_axis(), blocks=(move(to={"Lift": "5"}), Pause(seconds=0.25), move(to={"Lift": "9"}))))
        first, second, third = made.blocks
        self.assertEqual((made.blocks[-1], made.blocks[1:], str(third.path)), (third, (second, third), "blocks[2]"))
        self.assertEqual((second.begin_s, second.end_s), (first.end_s, third.begin_s))
        self.assertLess(first.begin_s, first.end_s)
        with self.assertRaises(IndexError):
            made.blocks[3]
