"""Rates along paths: held against linear programs and against trapezoids."""

from __future__ import annotations

import unittest

import numpy as np
from scipy.optimize import linprog

from kivant.core.motion.lines.limits import strips_of
from kivant.core.motion.lines.path_rates import Strips, greatest_rates
from kivant.core.motion.ramp import trapezoid
from kivant.core.motion.segment import Reals


def best_squares(share: Reals, most: Reals, strips: Strips) -> Reals:
    """Return the greatest squares of rates: those of the greatest sum, by a linear program that knows no order."""
    count, ways = len(share), np.diff(share)
    rows, bounds = [], []
    for k in range(count - 1):
        for slope, bend, low, high in zip(*(column[k] for column in strips), strict=True):
            row = np.zeros(count)
            row[k], row[k + 1] = bend - slope / (2 * ways[k]), slope / (2 * ways[k])
            rows += [row, -row]
            bounds += [high, -low]
    ends = [(0.0, 0.0) if k in (0, count - 1) else (0.0, most[k] ** 2) for k in range(count)]
    return np.asarray(linprog(-np.ones(count), np.array(rows), np.array(bounds), bounds=ends).x)


class PathRates(unittest.TestCase):
    def test_curved_paths_are_gone_within_their_strips_and_no_faster_is_possible(self):
        random = np.random.default_rng(1)
        share, count = np.linspace(0, 1, 65), 64
        for case in range(30):
            own = random.uniform((0.6, 0, 0.2), (3.6, 3, 2), (2, 3))
            slopes = np.stack([np.cos(f * share + p) for f, p, _most in own], axis=-1)
            bends = np.stack([-f * np.sin(f * share + p) for f, p, _most in own], axis=-1)
            most, rates = np.full(65, float(random.uniform(0.5, 4))), np.broadcast_to(own[:, 2], (65, 2))
            strips = strips_of(np.diff(share), slopes, bends, (rates, rates), (1.0, float(random.uniform(0.3, 9))))
            found, ceilings = greatest_rates(share, most, strips)
            change = (np.diff(found**2) * count / 2)[:, None]
            used = strips.slopes * change + strips.bends * found[:-1, None] ** 2
            best = np.sqrt(best_squares(share, most, strips))
            seconds = [float((2 / count / (own[1:] + own[:-1])).sum()) for own in (found, best)]
            with self.subTest(case=case):
                self.assertTrue(np.all((used <= strips.high + 1e-9) & (used >= strips.low - 1e-9)))
                self.assertTrue(np.all(found <= ceilings * (1 + 1e-12)))
                self.assertAlmostEqual(seconds[0], seconds[1], delta=1e-3 * seconds[1])

    def test_a_straight_path_is_gone_along_a_trapezoid(self):
        random = np.random.default_rng(2)
        share = (1 - np.cos(np.linspace(0, np.pi, 513))) / 2
        for case in range(40):
            speed, up, down = (float(value) for value in random.uniform((0.2, 0.5, 0.5), (3.0, 9.0, 9.0)))
            one = np.ones((512, 1))
            strips = Strips(one, 0 * one, -down * one, up * one)
            rates, _ceilings = greatest_rates(share, np.full(513, speed), strips)
            seconds = float((2 * np.diff(share) / (rates[1:] + rates[:-1])).sum())
            ramp = trapezoid(np.ones(1), speed=speed, acceleration=up, deceleration=down)
            with self.subTest(case=case):
                self.assertAlmostEqual(seconds, float(ramp.durations_s[0]), delta=3e-4 * seconds)
