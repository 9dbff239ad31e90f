"""Ramps and coordinated moves, against energy balances and a time-optimal search on a grid."""

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from kivant.core.motion.coordination import coordinate
from kivant.core.motion.ramp import Ramp, trapezoid
from kivant.core.motion.rates import Rates

positive = st.floats(1e-3, 1e4)


def at(ramp: Ramp, piece: int, u: float) -> tuple[float, float]:
    """Return distance and speed on a piece at time u after its begin."""
    c0, c1, c2, c3 = ramp.coefficients[piece]
    return c0 + u * (c1 + u * (c2 + u * c3)), c1 + u * (2 * c2 + u * 3 * c3)


def fastest_on_grid(distance: float, speed: float, up: float, down: float, first: float, last: float) -> float:
    """Return the least time by the classic forward and backward pass over speed squared, on a fine grid."""
    x = np.linspace(0.0, distance, 200_001)
    squared = np.minimum(np.minimum(first**2 + 2 * up * x, last**2 + 2 * down * (distance - x)), speed**2)
    v = np.sqrt(squared)
    return float(np.sum(2 * np.diff(x) / (v[1:] + v[:-1])))


class Trapezoid(unittest.TestCase):
    @settings(max_examples=150, deadline=None)
    @given(positive, positive, positive, positive, st.floats(0, 1e4), st.floats(0, 1e4))
    def test_no_limit_is_passed_and_the_distance_is_covered(self, distance, speed, up, down, first, last):
        """Pieces join in distance and speed; ends are at most the speeds allowed; nothing exceeds a limit."""
        ramp = trapezoid(distance, speed=speed, acceleration=up, deceleration=down, start_speed=first, end_speed=last)
        covered, before = 0.0, (0.0, 0.0)
        # A break is a rounded time: so far may a speed be off there.
        grain = 1e-7 * speed + 1e-15 * ramp.duration_s * max(up, down)
        for i, (begin, end) in enumerate(zip(ramp.breaks_s, ramp.breaks_s[1:], strict=False)):
            x0, v0 = at(ramp, i, 0.0)
            covered, v1 = at(ramp, i, end - begin)
            self.assertLessEqual(max(v0, v1), speed * (1 + 1e-9))
            self.assertGreaterEqual(min(v0, v1), -grain)
            self.assertLessEqual(2 * ramp.coefficients[i][2], up * (1 + 1e-9))
            self.assertGreaterEqual(2 * ramp.coefficients[i][2], -down * (1 + 1e-9))
            if not i:
                self.assertLessEqual(v0, first * (1 + 1e-9))
            else:
                self.assertAlmostEqual(x0, before[0], delta=1e-9 * distance)
                self.assertAlmostEqual(v0, before[1], delta=grain)
            before = covered, v1
        self.assertAlmostEqual(covered, distance, delta=1e-9 * distance)
        self.assertLessEqual(before[1], last + grain)
        self.assertLessEqual(ramp.peak_speed, speed * (1 + 1e-9))

    def test_it_is_the_fastest_there_is(self):
        """Within 0.1 % of a search that knows nothing of trapezoids or triangles."""
        table = [  # distance, speed, up, down, first, last
            (100, 20, 50, 50, 0, 0), (1, 20, 50, 50, 0, 0), (10, 20, 50, 10, 5, 5), (1, 30, 500, 20, 5, 5),
            (0.01, 20, 50, 50, 6, 6), (5, 20, 50, 10, 20, 0), (3, 20, 10, 50, 0, 15), (7, 5, 50, 50, 9, 9),
        ]  # fmt: skip
        for distance, speed, up, down, first, last in table:
            with self.subTest(distance=distance, first=first, last=last):
                ramp = trapezoid(
                    distance,
                    speed=speed,
                    acceleration=up,
                    deceleration=down,
                    start_speed=first,
                    end_speed=last,
                )
                # A start too fast to brake, or an end too fast to reach, is lowered beforehand in the search.
                begin = min(first, speed, math.sqrt(min(last, speed) ** 2 + 2 * down * distance))
                end = min(last, speed, math.sqrt(begin**2 + 2 * up * distance))
                best = fastest_on_grid(distance, speed, up, down, begin, end)
                self.assertAlmostEqual(ramp.duration_s / best, 1.0, delta=1e-3)

    def test_closed_forms(self):
        """A triangle takes 2 sqrt(x/a); a trapezoid x/v + v/a; a jump to full speed x/v."""
        free = {"acceleration": 8.0, "deceleration": 8.0}
        self.assertAlmostEqual(trapezoid(2.0, speed=99.0, **free).duration_s, 2 * math.sqrt(2.0 / 8.0))
        self.assertAlmostEqual(trapezoid(50.0, speed=4.0, **free).duration_s, 50 / 4 + 4 / 8)
        self.assertAlmostEqual(trapezoid(50.0, speed=4.0, start_speed=9.0, **free).duration_s, 50 / 4)


class Coordination(unittest.TestCase):
    def test_the_tightest_axis_holds_the_path(self):
        """Speed, acceleration, deceleration and start speed may each be held by another axis."""
        rates = [Rates(100, 900, 900, 9), Rates(50, 100, 700, 8), Rates(70, 600, 90, 3)]
        distances = [-40.0, 20.0, 10.0]
        ramp = coordinate(distances, rates)
        path = {
            "speed": min(100 / 40, 50 / 20, 70 / 10), "acceleration": min(900 / 40, 100 / 20, 600 / 10),
            "deceleration": min(900 / 40, 700 / 20, 90 / 10), "start_speed": min(9 / 40, 8 / 20, 3 / 10),
        }  # fmt: skip
        self.assertEqual(ramp, trapezoid(1.0, **path))
        best = fastest_on_grid(1.0, path["speed"], path["acceleration"], path["deceleration"], 9 / 40, 9 / 40)
        self.assertAlmostEqual(ramp.duration_s / best, 1.0, delta=1e-3)

    def test_an_axis_that_rests_limits_nothing_and_no_move_is_none(self):
        fast, slow = Rates(100, 900, 900, 0), Rates(1, 1, 1, 0)
        self.assertEqual(coordinate([30.0, 0.0], [fast, slow]), coordinate([30.0], [fast]))
        self.assertIsNone(coordinate([0.0, 0.0], [fast, slow]))

    def test_a_speed_factor_scales_the_speed_only(self):
        rates = [Rates(100, 900, 900, 60)]
        ramp = coordinate([500.0], rates, 0.5)
        self.assertAlmostEqual(ramp.peak_speed * 500, 50)
        self.assertEqual(len(ramp.coefficients), 1, "the start speed is at most the scaled speed")
        for pulse_rate, factor, peak in ((30, 1.0, 30), (30, 0.5, 30), (30, 0.2, 20), (80, 0.5, 50)):
            capped = coordinate([500.0], [Rates(100, 900, 900, 0, pulse_rate)], factor)
            self.assertAlmostEqual(capped.peak_speed * 500, peak)
