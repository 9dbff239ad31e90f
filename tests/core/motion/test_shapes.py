"""Ramp shapes: one that is added to the table moves axes; its steps are solved whatever the degree of its pieces."""

import unittest
from fractions import Fraction
from unittest import mock

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from kivant.core.motion.axis_move import AxisMoves, axis_move
from kivant.core.motion.coordination import coordinate
from kivant.core.motion.ramp import Ramp
from kivant.core.motion.rates import Rates
from kivant.core.motion.segment import solve_cubic
from kivant.core.motion.shapes import SHAPES
from kivant.core.motion.train import StepTrain


def smooth(
    distance: float, *, speed: float, acceleration: float, deceleration: float, start_speed: float = 0.0
) -> Ramp:
    """Return a ramp of constant jerk: four pieces up and down around a cruise, from rest to rest.

    With the peak v reached in a time t at acceleration a in its middle, v = a t / 2, and half of v t is covered.
    """
    rate = min(acceleration, deceleration)
    peak = min(speed, (distance * rate / 2) ** 0.5)
    half, jerk = peak / rate, rate / (peak / rate)
    cruise_s = distance / peak - 2 * half
    pieces = [  # duration, speed at its begin, acceleration at its begin, jerk
        (half, 0.0, 0.0, jerk), (half, peak / 2, rate, -jerk), (cruise_s, peak, 0.0, 0.0),
        (half, peak, 0.0, -jerk), (half, peak / 2, -rate, jerk),
    ]  # fmt: skip
    breaks, coefficients, done = [0.0], [], 0.0
    for seconds, v, a, j in pieces:
        coefficients.append((done, v, a / 2, j / 6))
        done += v * seconds + a * seconds**2 / 2 + j * seconds**3 / 6
        breaks.append(breaks[-1] + seconds)
    return Ramp(tuple(breaks), tuple(coefficients), (0.0, peak / 2, peak, peak, peak / 2, 0.0), distance)


def covered(ramp: Ramp, seconds: float) -> float:
    """Return the distance that a ramp has covered at a time, by its own polynomials."""
    i = min(int(np.searchsorted(ramp.breaks_s, seconds, "right")) - 1, len(ramp.coefficients) - 1)
    c0, c1, c2, c3 = ramp.coefficients[i]
    u = seconds - ramp.breaks_s[i]
    return c0 + u * (c1 + u * (c2 + u * c3))


def crossing(ramp: Ramp, target: float) -> float:
    """Return when a ramp has covered `target`, by halving."""
    low, high = 0.0, ramp.duration_s
    for _ in range(200):
        middle = (low + high) / 2
        low, high = (middle, high) if covered(ramp, middle) < target else (low, middle)
    return (low + high) / 2


class Cubic(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(st.fractions(-90, 90, max_denominator=16), st.fractions(-90, 90, max_denominator=16), st.integers(20, 900))
    def test_every_step_is_where_halving_finds_it(self, start, end, speed):
        """In bulk and one by one, both ways; positions, speeds and counts agree with the polynomials."""
        if abs(end - start) < 1:
            return
        span = float(abs(end - start))
        ramp = smooth(1.0, speed=speed / span, acceleration=3000 / span, deceleration=3000 / span)
        train = StepTrain(start, end, AxisMoves([axis_move(0.5, ramp, start, end)]))
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
        times = np.linspace(0.4, 0.6 + ramp.duration_s, 200)
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
        rates = [Rates(100, 900, 900, 0), Rates(50, 100, 700, 0)]
        with mock.patch.dict(SHAPES, {"smooth": smooth}):
            ramp = coordinate([-40.0, 20.0], rates, shape="smooth")
        self.assertEqual(ramp, smooth(1.0, speed=2.5, acceleration=5.0, deceleration=22.5))
        self.assertLess(ramp.peak_acceleration * 20, 100 * (1 + 1e-9))
        self.assertAlmostEqual(ramp.braking_s, ramp.breaks_s[3])
        self.assertEqual(Fraction(ramp.distance), 1)
