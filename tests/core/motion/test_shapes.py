"""Ramp shapes: one that is added to the table moves axes; its steps are solved whatever the degree of its pieces."""

import math
import unittest
from unittest import mock

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from kivant.core.motion.coordination import coordinate
from kivant.core.motion.ramp import Ramps, in_columns, joined
from kivant.core.motion.rates import Rates
from kivant.core.motion.segment import Reals, solve_cubic
from kivant.core.motion.shapes import SHAPES
from tests.core.motion.trains import train_along


def smooth(
    distance: Reals,
    *,
    speed: Reals | float,
    acceleration: Reals | float,
    deceleration: Reals | float,
    start_speed: Reals | float = 0.0,
) -> Ramps:
    """Return ramps of constant jerk: two pieces up and two down around a cruise, from rest to rest.

    With the peak v reached in a time t at acceleration a in its middle, v = a t / 2, and half of v t is covered.
    """
    rate = np.minimum(acceleration, deceleration)
    peak = np.minimum(speed, np.sqrt(distance * rate / 2))
    half, jerk, zero = peak / rate, rate * rate / peak, np.zeros_like(distance)
    times = in_columns(half, half, distance / peak - 2 * half, half, half)
    speeds = in_columns(zero, peak / 2, peak, peak, peak / 2, zero)
    accelerations = in_columns(zero, rate, zero, zero, -rate)
    jerks = in_columns(jerk, -jerk, zero, -jerk, jerk)
    lengths = times * (speeds[:, :-1] + times * (accelerations / 2 + times * jerks / 6))
    return joined(distance, times, lengths, speeds, (accelerations, jerks))


def covered(ramps: Ramps, seconds: float) -> float:
    """Return the distance that the first of some ramps has covered at a time, by its own polynomials."""
    breaks, places, speeds, accelerations, jerks = (column[0] for column in ramps)
    i = min(int(np.searchsorted(breaks, seconds, "right")) - 1, len(accelerations) - 1)
    u = seconds - breaks[i]
    return float(places[i] + u * (speeds[i] + u * (accelerations[i] / 2 + u * jerks[i] / 6)))


def crossing(ramps: Ramps, target: float) -> float:
    """Return when the first of some ramps has covered `target`, by halving."""
    low, high = 0.0, float(ramps.durations_s[0])
    for _ in range(200):
        middle = (low + high) / 2
        low, high = (middle, high) if covered(ramps, middle) < target else (low, middle)
    return (low + high) / 2


class Cubic(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(st.fractions(-90, 90, max_denominator=16), st.fractions(-90, 90, max_denominator=16), st.integers(20, 900))
    def test_every_step_is_where_halving_finds_it(self, start, end, speed):
        """In bulk and one by one, both ways; positions, speeds and counts agree with the polynomials."""
        if abs(end - start) < 1:
            return
        span = float(abs(end - start))
        ramp = smooth(np.ones(1), speed=speed / span, acceleration=3000 / span, deceleration=3000 / span)
        train = train_along((start, end), ramp, [0.5])
        instants, signs = train.instants(), train.signs()
        self.assertTrue(np.all(np.diff(instants) > 0))
        position = np.cumsum(signs, dtype=np.int64) + round(float(train.position_after(0)))
        for k in range(0, train.count, max(train.count // 7, 1)):
            target = abs(float(position[k]) - float(signs[k]) / 2 - float(start)) / span
            # Near standstill a time that is off shows in the distance with its third power only: halving sees no more.
            self.assertAlmostEqual(instants[k], 0.5 + crossing(ramp, min(target, 1.0)), places=4)
            self.assertAlmostEqual(covered(ramp, instants[k] - 0.5) * span, min(target, 1.0) * span, places=9)
            self.assertAlmostEqual(train.instant(k), instants[k], places=12)
            self.assertEqual(train.taken(train.instant(k)), k + 1)
        times = np.linspace(0.4, 0.6 + float(ramp.durations_s[0]), 200)
        self.assertLessEqual(float(np.max(np.abs(train.steps_at(times) - train.ideal(times)))), 0.5 + 1e-6)
        moving = (times[:-1] + times[1:]) / 2
        np.testing.assert_allclose(
            np.diff(train.ideal(times)) / np.diff(times), train.speed(moving), atol=3000 * float(times[1] - times[0])
        )
        self.assertAlmostEqual(train.peak_acceleration, 3000, places=6)

    def test_the_solver_meets_closed_forms(self):
        """Jerk alone: the cube root of 6x/j. With v, a and j: the polynomial gives x back, to the last digits."""
        x = np.array([0.0, 1e-12, 0.3, 7.0])
        np.testing.assert_allclose(solve_cubic(x, 0.0, 0.0, 5.0, 10.0), np.cbrt(6 * x / 5.0), rtol=1e-15)
        random = np.random.default_rng(5)
        t, v, a, j = (
            random.uniform(0, 4, 500),
            random.uniform(0, 9, 500),
            random.uniform(0, 50, 500),
            random.uniform(-6, 60, 500),
        )
        x = t * (v + t * (a / 2 + t * j / 6))
        rising = v + 4 * (a + 2 * j) > 0
        found = solve_cubic(x[rising], v[rising], a[rising], j[rising], 4.0)
        np.testing.assert_allclose(found, t[rising], rtol=1e-9, atol=1e-12)


class Table(unittest.TestCase):
    def test_a_shape_of_the_table_moves_axes_together(self):
        columns = zip((100.0, 900.0, 900.0, 0.0, math.inf), (50.0, 100.0, 700.0, 0.0, math.inf), strict=True)
        rates = Rates(*map(np.array, columns))
        with mock.patch.dict(SHAPES, {"smooth": smooth}):
            ramps = coordinate(np.array([0, 0]), np.array([-40.0, 20.0]), rates, shape="smooth")
        for ours, alone in zip(ramps, smooth(np.ones(1), speed=2.5, acceleration=5.0, deceleration=22.5), strict=True):
            np.testing.assert_array_equal(ours, alone)
        self.assertLess(float(np.abs(ramps.accelerations).max()) * 20, 100 * (1 + 1e-9))
        self.assertAlmostEqual(ramps.braking_s[0], ramps.breaks_s[0, 3])
        self.assertEqual(float(ramps.places[0, -1]), 1.0)
