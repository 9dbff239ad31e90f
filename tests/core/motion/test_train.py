"""Step instants, against exact arithmetic with 60 digits and against the definition itself."""

import math
import unittest
from decimal import Decimal, localcontext
from fractions import Fraction
from itertools import accumulate

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from kivant.core.motion.ramp import trapezoid
from kivant.core.motion.train import StepTrain
from kivant.core.travel.conversion import nearest_step
from tests.core.motion.trains import ramps_of, train_along


def exact_crossing(position: Fraction, start: Fraction, end: Fraction, up: int, speed: int) -> Decimal:
    """Return when a trapezoid of equal ramps from rest crosses `position`, by the schoolbook formulas."""
    with localcontext() as context:
        context.prec = 60
        x = Decimal(abs(position - start).numerator) / Decimal(abs(position - start).denominator)
        whole = abs(end - start)
        span = Decimal(whole.numerator) / Decimal(whole.denominator)
        a, v = Decimal(up), Decimal(speed)
        ramp_length = min(v * v / (2 * a), span / 2)
        top = (2 * a * ramp_length).sqrt()
        cruise = (span - 2 * ramp_length) / top
        if x <= ramp_length:
            return (2 * x / a).sqrt()
        if x <= span - ramp_length:
            return top / a + (x - ramp_length) / top
        return 2 * top / a + cruise - (2 * (span - x) / a).sqrt()


def train_of(start: Fraction, end: Fraction, up: int, speed: int, begin_s: float = 0.0) -> StepTrain:
    span = abs(end - start)
    rate = up / float(span)
    return train_along(
        (start, end), ramps_of([1.0], speed=speed / float(span), acceleration=rate, deceleration=rate), [begin_s]
    )


class Instants(unittest.TestCase):
    def test_an_hour_long_train_is_exact_to_a_nanosecond_at_both_ends(self):
        """72 million steps; no difference of nearly equal numbers spoils the last ones."""
        start, end = Fraction(1, 3), Fraction(72_000_000) + Fraction(2, 7)
        train = train_of(start, end, up=50_000, speed=20_000)
        self.assertGreater(float(exact_crossing(end, start, end, 50_000, 20_000)), 3600.0)
        steps = [
            0,
            1,
            2,
            3999,
            4000,
            4001,
            35_999_999,
            train.count - 4001,
            train.count - 4000,
            train.count - 2,
            train.count - 1,
        ]
        for k in steps:
            expected = exact_crossing(Fraction(k) + Fraction(1, 2), start, end, 50_000, 20_000)
            self.assertLess(abs(Decimal(train.instant(k)) - expected), Decimal("1e-9"), k)

    @settings(max_examples=120)
    @given(
        st.fractions(-500, 500, max_denominator=60),
        st.fractions(-500, 500, max_denominator=60),
        st.integers(1, 4000),
        st.integers(1, 900),
    )
    def test_the_staircase_is_never_more_than_half_a_step_off(self, start, end, up, speed):
        """Every step happens where the ideal crosses k - 1/2, and the count is that of the rounded targets."""
        if start == end:
            return
        train = train_of(start, end, up, speed)
        instants, signs = train.instants(), train.signs()
        self.assertEqual(nearest_step(start) + int(signs.sum()), nearest_step(end))
        self.assertTrue(np.all(np.diff(instants) > 0))
        after = nearest_step(start) + np.cumsum(signs, dtype=np.int64)
        np.testing.assert_allclose(train.ideal(instants), after - signs / 2, atol=1e-6)
        times = np.linspace(0, 1.2 * float(instants[-1]) if len(instants) else 1.0, 500)
        off = np.abs(train.steps_at(times) - train.ideal(times))
        self.assertLessEqual(float(off.max()), 0.5 + 1e-6)
        # Counts are exact however slow the axis is: at the very end of a move, a position tells nothing any more.
        for aside, counted in ((1e-9, after), (-1e-9, after - signs)):
            self.assertEqual(train.steps_at(instants + aside).tolist(), counted.tolist())
        slow, corners = train.slow_instants(speed / 3), train.corners()[0]
        on_corner = np.min(np.abs(instants[:, None] - corners), axis=1, initial=1.0) < 1e-5
        speeds = np.where(on_corner, 0.0, np.abs(train.speed(instants)))
        certain = np.abs(train.speed(instants)) < speed / 3 * (1 - 1e-5)
        self.assertLessEqual(np.count_nonzero(certain), len(slow))
        self.assertLessEqual(len(slow), np.count_nonzero(speeds < speed / 3 * (1 + 1e-5)))
        self.assertLess(float(np.max(np.min(np.abs(slow[:, None] - instants), axis=1, initial=1.0), initial=0.0)), 1e-9)
        for k in range(0, train.count, max(train.count // 5, 1)):
            self.assertAlmostEqual(train.instant(k), instants[k], places=11)
            self.assertEqual(train.taken(train.instant(k)), k + 1)
            self.assertEqual(train.position_after(k + 1), after[k])

    def test_a_target_half_way_steps_at_the_very_end_and_back_at_the_very_start(self):
        """Rounding goes away from zero: to 10.5 takes 11 steps, the last at the end; and back, 11, the first at once."""
        half = Fraction(21, 2)
        out = train_of(Fraction(0), half, 100, 50)
        ramp_end = out.instants()[-1]
        self.assertEqual(out.count, 11)
        self.assertAlmostEqual(ramp_end, 2 * math.sqrt(10.5 / 100), places=12)
        back = train_of(half, Fraction(0), 100, 50)
        self.assertEqual((back.count, float(back.instants()[0])), (11, 0.0))
        toward = train_of(Fraction(2), Fraction(1, 2), 100, 50)
        self.assertEqual(toward.count, 1, "1/2 is step 1, not step 0")

    def test_bulk_and_single_agree_across_many_moves(self):
        """A thousand moves, solved in bulk, give what each gives alone; directions change between them."""
        positions = [Fraction((k * 7919) % 1000, 7) for k in range(1001)]
        ramps = ramps_of([1.0] * 1000, speed=9.0, acceleration=40.0, deceleration=25.0)
        begins = np.arange(1000) * ramps.durations_s[0]
        clock = 1000 * ramps.durations_s[0]
        train = train_along(positions, ramps, begins)
        instants = train.instants()
        singles = np.array([train.instant(k) for k in range(train.count)])
        np.testing.assert_allclose(instants, singles, rtol=0, atol=1e-12)
        times = np.concatenate((np.linspace(-1.0, clock + 1.0, 5000), begins, [clock]))
        np.testing.assert_array_equal(train.ideal(times), [train.ideal_at(t) for t in times.tolist()])
        np.testing.assert_array_equal(train.speed(times), [train.speed_at(t) for t in times.tolist()])
        self.assertEqual(float(np.abs(train.speed(begins)).max()), 0.0, "a move from rest begins at speed 0")
        at_ends = train.steps_at(begins + ramps.durations_s)
        self.assertEqual(at_ends.tolist(), [nearest_step(p) for p in positions[1:]])

    def test_long_and_short_segments_between_each_other_agree_with_single_steps(self):
        """Long ones are solved alone and short ones together: each instant is in its own place all the same."""
        lengths = map(Fraction, ("3", "-40000", "7/2", "900", "-1", "25000", "-5000", "1/2"))
        positions = list(accumulate(lengths, initial=Fraction(0)))
        jumps = np.array([0.0, 0.3] * 4)
        ramps = trapezoid(np.ones(8), speed=2.0, acceleration=9.0, deceleration=4.0, start_speed=jumps)
        train = train_along(positions, ramps, np.cumsum(ramps.durations_s) - ramps.durations_s)
        singles = np.array([train.instant(k) for k in range(train.count)])
        np.testing.assert_allclose(train.instants(), singles, rtol=0, atol=1e-13)

    def test_nothing_stored_per_step_but_what_is_asked_for(self):
        """Ten million steps take ten bytes each, not more."""
        import tracemalloc

        train = train_of(Fraction(0), Fraction(10_000_000), up=10**6, speed=100_000)
        tracemalloc.start()
        instants, signs = train.instants(), train.signs()
        peak = tracemalloc.get_traced_memory()[1]
        tracemalloc.stop()
        self.assertEqual((len(instants), len(signs)), (10_000_000, 10_000_000))
        self.assertLess(peak, 10 * 10_000_000 + 5_000_000)
