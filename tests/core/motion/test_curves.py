"""Curves thinned to what a width can show."""

import unittest
from decimal import Decimal

import numpy as np
from msgspec.structs import replace

from kivant.core.machine import Move
from kivant.core.motion.curves import curve_between, envelope, longest_intervals, traces
from kivant.core.plan import plan
from tests.core.test_geometry import arm


class Envelopes(unittest.TestCase):
    def test_every_column_shows_the_greatest_speed_in_it(self):
        """Against a dense reading of the same curve, with jumps, rests and one long cruise between two corners."""
        random = np.random.default_rng(7)
        times = np.sort(random.uniform(0, 10, 300))
        times[100:] += 30.0  # nothing happens in between: the curve goes on straight
        times[50] = times[51]
        shares = random.uniform(0, 1, 300)
        columns = 64
        middles, tops = envelope((times, shares), 40.0, columns)
        dense = np.concatenate((np.linspace(0, 40, 64 * 400 + 1), times))
        height = np.concatenate((np.interp(dense[: -len(times)], times, shares), shares))
        for k in range(columns):
            inside = (dense >= k * 40 / columns) & (dense <= (k + 1) * 40 / columns)
            self.assertAlmostEqual(tops[k], height[inside].max(), places=2)
        np.testing.assert_allclose(middles, (np.arange(columns) + 0.5) * 40 / columns)


class Thinned(unittest.TestCase):
    def test_a_line_of_a_tool_has_few_corners_and_is_not_seen_to_change(self):
        """Against the speeds of the steps' own train, jumps at the start speed included."""
        blocks = (Move(tool={"x": Decimal(150), "y": Decimal(80)}), Move(tool={"x": Decimal(150), "y": Decimal(-80)}, straight=True),
                  Move(to={"Lift": Decimal(30)}))  # fmt: skip
        built = arm(blocks=blocks)
        lift = replace(built.axes[2], limits=replace(built.axes[2].limits, start_speed=10.0))
        made = plan(replace(built, axes=(*built.axes[:2], lift)))
        whole, part = traces(made).curves, [curve_between(axis, 0.7, 2.1) for axis in made.axes]
        for axis, (times, shares), (since, also) in zip(made.axes, whole, part, strict=True):
            dense = np.linspace(0.0, made.duration, 5003)
            told = np.abs(axis.train.speed(dense)) / (axis.axis.limits.speed * float(axis.steps_per_unit))
            with self.subTest(axis=axis.name):
                self.assertLess(len(times), 60)
                beside = np.abs(np.interp(dense, times, shares) - told)
                self.assertLess(float(np.sort(beside)[-4]), 2e-3)  # beside the jumps
                inside = (dense > 0.7) & (dense < 2.1)
                there = np.interp(dense[inside] - 0.7, since, also)
                self.assertLess(float(np.sort(np.abs(there - told[inside]))[-4]), 2e-3)


class Intervals(unittest.TestCase):
    def test_each_column_keeps_its_longest_interval(self):
        """Against a search through all of them; few enough are left as they are."""
        random = np.random.default_rng(3)
        gaps = random.uniform(0.001, 0.02, 5000)
        instants = np.cumsum(gaps)
        span = float(instants[-1])
        at, longest = longest_intervals(instants, gaps, span * 1.0001, 50)
        for middle, found in zip(at, longest, strict=True):
            inside = np.abs(instants - middle) <= span * 1.0001 / 100
            self.assertEqual(found, gaps[inside].max())
        np.testing.assert_array_equal(longest_intervals(instants[:9], gaps[:9], span, 50), (instants[:9], gaps[:9]))
