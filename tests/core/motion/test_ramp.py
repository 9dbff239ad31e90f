"""Ramps and coordinated moves, against energy balances and a time-optimal search on a grid."""

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from kivant.core.motion.abilities import rates_table
from kivant.core.motion.coordination import coordinate
from kivant.core.motion.ramp import Ramps, trapezoid
from kivant.core.motion.rates import Rates
from kivant.core.motion.segment import Reals

positive = st.floats(1e-3, 1e4)


def one(distance: float, **limits: float) -> Ramps:
    """Return one trapezoid."""
    return trapezoid(np.array([distance]), **limits)


def rates_of(*rows: tuple[float, ...]) -> Reals:
    """Return the rates of axes, one in a row: speed, acceleration, deceleration, start speed and, if any, pulse rate."""
    return rates_table([Rates._make((*row[:4], math.inf, *(row[4:] or [math.inf]))) for row in rows])


def fastest_on_grid(distance: float, speed: float, up: float, down: float, first: float, last: float) -> float:
    """Return the least time by the classic forward and backward pass over speed squared, on a fine grid."""
    x = np.linspace(0.0, distance, 200_001)
    squared = np.minimum(np.minimum(first**2 + 2 * up * x, last**2 + 2 * down * (distance - x)), speed**2)
    v = np.sqrt(squared)
    return float(np.sum(2 * np.diff(x) / (v[1:] + v[:-1])))


class Trapezoid(unittest.TestCase):
    @settings(max_examples=150)
    @given(positive, positive, positive, positive, st.floats(0, 1e4), st.floats(0, 1e4))
    def test_no_limit_is_passed_and_the_distance_is_covered(self, distance, speed, up, down, first, last):
        """Pieces join in distance and speed; ends are at most the speeds allowed; nothing exceeds a limit."""
        ramp = one(distance, speed=speed, acceleration=up, deceleration=down, start_speed=first, end_speed=last)
        breaks, places, speeds, rates, jerks = ramp.table[:, :, 0]
        # A break is a rounded time: so far may a speed be off there.
        grain = 1e-7 * speed + 1e-15 * breaks[-1] * max(up, down)
        self.assertLessEqual(float(speeds.max()), speed * (1 + 1e-9))
        self.assertGreaterEqual(float(speeds.min()), 0.0)
        self.assertLessEqual(speeds[0], first * (1 + 1e-9))
        self.assertLessEqual(speeds[-1], last * (1 + 1e-9))
        self.assertFalse(jerks.any())
        for i in np.flatnonzero(np.diff(breaks) > 0):
            u = breaks[i + 1] - breaks[i]
            self.assertTrue(-down * (1 + 1e-9) <= rates[i] <= up * (1 + 1e-9))
            self.assertAlmostEqual(speeds[i] + rates[i] * u, speeds[i + 1], delta=grain)
            self.assertAlmostEqual(places[i] + u * (speeds[i] + rates[i] * u / 2), places[i + 1], delta=1e-9 * distance)
        self.assertEqual((places[0], places[-1]), (0.0, distance))

    def test_many_at_once_are_what_each_is_alone(self):
        random = np.random.default_rng(1)
        columns = 10.0 ** random.uniform(-3, 3, (5, 200))
        limits = dict(zip(("speed", "acceleration", "deceleration", "start_speed"), columns[1:], strict=True))
        together = trapezoid(columns[0], **limits)
        for k in range(200):
            alone = one(columns[0, k], **{name: column[k] for name, column in limits.items()})
            np.testing.assert_array_equal(together.table[:, :, k], alone.table[:, :, 0])

    def test_it_is_the_fastest_there_is(self):
        """Within 0.1 % of a search that knows nothing of trapezoids or triangles."""
        table = [  # distance, speed, up, down, first, last
            (100, 20, 50, 50, 0, 0), (1, 20, 50, 50, 0, 0), (10, 20, 50, 10, 5, 5), (1, 30, 500, 20, 5, 5),
            (0.01, 20, 50, 50, 6, 6), (5, 20, 50, 10, 20, 0), (3, 20, 10, 50, 0, 15), (7, 5, 50, 50, 9, 9),
        ]  # fmt: skip
        for distance, speed, up, down, first, last in table:
            with self.subTest(distance=distance, first=first, last=last):
                limits = {"speed": speed, "acceleration": up, "deceleration": down}
                ramp = one(distance, **limits, start_speed=first, end_speed=last)
                # A start too fast to brake, or an end too fast to reach, is lowered beforehand in the search.
                begin = min(first, speed, math.sqrt(min(last, speed) ** 2 + 2 * down * distance))
                end = min(last, speed, math.sqrt(begin**2 + 2 * up * distance))
                best = fastest_on_grid(distance, speed, up, down, begin, end)
                self.assertAlmostEqual(ramp.durations_s[0] / best, 1.0, delta=1e-3)

    def test_closed_forms(self):
        """A triangle takes 2 sqrt(x/a); a trapezoid x/v + v/a; a jump to full speed x/v."""
        free = {"acceleration": 8.0, "deceleration": 8.0}
        self.assertAlmostEqual(one(2.0, speed=99.0, **free).durations_s[0], 2 * math.sqrt(2.0 / 8.0))
        self.assertAlmostEqual(one(50.0, speed=4.0, **free).durations_s[0], 50 / 4 + 4 / 8)
        self.assertAlmostEqual(one(50.0, speed=4.0, start_speed=9.0, **free).durations_s[0], 50 / 4)


class Coordination(unittest.TestCase):
    def test_the_tightest_axis_holds_the_path(self):
        """Speed, acceleration, deceleration and start speed may each be held by another axis."""
        rates = rates_of((100, 900, 900, 9), (50, 100, 700, 8), (70, 600, 90, 3))
        ramp = coordinate(1, np.zeros(3, np.int64), np.array([-40.0, 20.0, 10.0]), rates)
        path = {
            "speed": min(100 / 40, 50 / 20, 70 / 10), "acceleration": min(900 / 40, 100 / 20, 600 / 10),
            "deceleration": min(900 / 40, 700 / 20, 90 / 10), "start_speed": min(9 / 40, 8 / 20, 3 / 10),
        }  # fmt: skip
        for ours, alone in zip(ramp, one(1.0, **path), strict=True):
            np.testing.assert_array_equal(ours, alone)
        best = fastest_on_grid(1.0, path["speed"], path["acceleration"], path["deceleration"], 9 / 40, 9 / 40)
        self.assertAlmostEqual(ramp.durations_s[0] / best, 1.0, delta=1e-3)

    def test_each_move_has_its_own_axes(self):
        """Two moves, the second of one axis only: an axis that rests limits nothing."""
        rates = rates_of((100, 900, 900, 0), (100, 900, 900, 0), (1, 1, 1, 0))
        ramps = coordinate(2, np.array([0, 1, 0]), np.array([30.0, 30.0, 2.0]), rates)
        alone = coordinate(1, np.zeros(1, np.int64), np.array([30.0]), rates_of((100, 900, 900, 0)))
        self.assertEqual(ramps.durations_s[1], alone.durations_s[0])
        self.assertGreater(ramps.durations_s[0], ramps.durations_s[1])

    def test_a_speed_factor_scales_the_speed_only(self):
        none, far = np.zeros(1, np.int64), np.array([500.0])
        ramp = coordinate(1, none, far, rates_of((100, 900, 900, 60)), 0.5)
        self.assertAlmostEqual(float(ramp.speeds.max()) * 500, 50)
        self.assertEqual(np.count_nonzero(np.diff(ramp.breaks_s[0])), 1, "the start speed is at most the scaled speed")
        for pulse_rate, factor, peak in ((30, 1.0, 30), (30, 0.5, 30), (30, 0.2, 20), (80, 0.5, 50)):
            capped = coordinate(1, none, far, rates_of((100, 900, 900, 0, pulse_rate)), factor)
            self.assertAlmostEqual(float(capped.speeds.max()) * 500, peak)
