"""Ramp shapes: one that is added to the table moves axes; its steps are solved whatever the degree of its pieces."""

import itertools
import math
import unittest
from fractions import Fraction
from itertools import pairwise

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from scipy.optimize import linprog

from kivant.core.motion.peak import peak_speed
from kivant.core.motion.ramp import Ramps, joined, trapezoid
from kivant.core.motion.s_curve import s_curve
from kivant.core.motion.segment import Reals, solve_cubic
from kivant.core.motion.torque_ramp import torque_ramp
from kivant.core.motor.pulling import pulls_of
from kivant.core.plan import PlanError, plan
from tests.core.motion.trains import train_along
from tests.machines import coil_axis, limits, machine, move, screw_axis


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
    times = np.column_stack((half, half, distance / peak - 2 * half, half, half))
    speeds = np.column_stack((zero, peak / 2, peak, peak, peak / 2, zero))
    accelerations = np.column_stack((zero, rate, zero, zero, -rate))
    jerks = np.column_stack((jerk, -jerk, zero, -jerk, jerk))
    lengths = times * (speeds[:, :-1] + times * (accelerations / 2 + times * jerks / 6))
    return joined(distance, np.array((times, lengths)), speeds, (accelerations, jerks))


def covered(ramps: Ramps, seconds: float) -> float:
    """Return the distance that the first of some ramps has covered at a time, by its own polynomials."""
    breaks, places, speeds, accelerations, jerks = ramps.table[:, :, 0]
    i = min(int(np.searchsorted(breaks, seconds, "right")) - 1, len(breaks) - 2)
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
    @settings(max_examples=60)
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
        self.assertAlmostEqual(np.abs(train.course()[2]).max(), 3000, places=6)

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

    def test_many_steps_are_solved_by_machine_code_as_one_is(self):
        """Long pieces with jerk of every kind, both ways, and many short ones."""
        for shape in (
            {"speed": 0.05, "jerk": 1.0},
            {"speed": 9.0, "jerk": 0.1},
            {"speed": 1.0, "jerk": 50.0, "start_speed": 0.2},
        ):
            ramp = s_curve(np.ones(1), acceleration=0.3, deceleration=0.2, **shape)
            for count, ends in ((1, 60_000), (400, 37)):
                places = [Fraction(ends * (k % 2)) + Fraction(k % 3, 5) for k in range(count + 1)]
                many = Ramps(np.repeat(ramp.table, count, axis=2))
                train = train_along(places, many, [k * (float(ramp.durations_s[0]) + 0.1) for k in range(count)])
                instants = train.instants()
                self.assertTrue(np.all(np.diff(instants) > 0))
                some = range(0, train.count, max(train.count // 300, 1))
                np.testing.assert_allclose(
                    instants[list(some)], [train.instant(k) for k in some], rtol=1e-13, atol=1e-13
                )


def at_times(ramps: Ramps, shares: Reals) -> tuple[Reals, Reals, Reals]:
    """Return speed and acceleration of every ramp at shares of each of its pieces, and by how much its pieces miss."""
    u = np.diff(ramps.breaks_s, axis=1)[:, :, None] * shares
    rates = ramps.accelerations[:, :, None] + ramps.jerks[:, :, None] * u
    speeds = ramps.speeds[:, :-1, None] + u * (ramps.accelerations[:, :, None] + ramps.jerks[:, :, None] * u / 2)
    ways = ramps.places[:, :-1, None] + u * (ramps.speeds[:, :-1, None] + u * (
        ramps.accelerations[:, :, None] / 2 + ramps.jerks[:, :, None] * u / 6))  # fmt: skip
    missed = np.abs(ways[:, :, -1] - ramps.places[:, 1:]).max(axis=1)
    return speeds.reshape(len(u), -1), rates.reshape(len(u), -1), missed


def falling(speed: Reals, top: Reals | float, plateau: Reals | float, corner: Reals | float) -> Reals:
    """Return an acceleration that holds up to a corner and falls from there as the inverse of the speed."""
    return plateau * np.minimum(1.0, corner * top / np.maximum(speed, 1e-12))


class Peaks(unittest.TestCase):
    def test_the_greatest_speed_for_which_a_distance_suffices_is_found_however_the_way_grows(self):
        """Where it is the speed to some power, its root: from the wished speed, or from far above it."""
        random = np.random.default_rng(4)
        power, distance = random.uniform(0.1, 4.0, 5000), 10.0 ** random.uniform(-9, 9, 5000)
        root = distance ** (1 / power)
        for above in (1.0, 1.5, 1e3):

            def way(speed: Reals) -> tuple[Reals, Reals]:
                return speed**power, power * speed ** (power - 1)

            found = peak_speed(np.zeros(5000), above * root, distance, way)
            np.testing.assert_allclose(found, root, rtol=1e-12)
            self.assertLess(float((way(found)[0] / distance).max()), 1 + 2e-14)
        wished = 0.9 * root
        np.testing.assert_array_equal(peak_speed(np.zeros(5000), wished, distance, way), wished)


class Limits(unittest.TestCase):
    def test_none_is_passed_and_every_distance_is_covered(self):
        """Ten thousand limits and distances: tiny moves, start speeds, and moves that never reach their speed."""
        random = np.random.default_rng(21)
        n, shares = 10_000, np.linspace(0.0, 1.0, 9)
        x, v, up, down, j = 10.0 ** random.uniform(-4, 4, (5, n))
        first = np.where(random.random(n) < 0.5, 0.0, 10.0 ** random.uniform(-4, 4, n))
        corner = random.uniform(0.05, 1.0, n)
        base = np.minimum(first, v)

        def available(at: Reals) -> tuple[Reals, Reals]:
            up_there, down_there = (falling(at, v[:, None], rate[:, None], corner[:, None]) for rate in (up, down))
            return up_there, down_there

        for ramps in (
            trapezoid(x, speed=v, acceleration=up, deceleration=down, start_speed=first),
            s_curve(x, speed=v, acceleration=up, deceleration=down, jerk=j, start_speed=first),
            torque_ramp(x, base, v, available),
        ):
            speeds, rates, missed = at_times(ramps, shares)
            self.assertTrue(np.all(np.isfinite(ramps.breaks_s)))
            self.assertTrue(np.all(np.diff(ramps.breaks_s, axis=1) >= 0))
            self.assertLess(float((missed / x).max()), 1e-9)
            np.testing.assert_array_equal(ramps.places[:, -1], x)
            self.assertTrue(np.all(speeds <= v[:, None] * (1 + 1e-9)))
            # A break is a rounded time: so far may an acceleration be off there.
            off = (1e-15 * ramps.durations_s * np.abs(ramps.jerks).max(axis=1))[:, None]
            self.assertTrue(np.all(rates <= up[:, None] * (1 + 1e-9) + off))
            self.assertTrue(np.all(rates >= -down[:, None] * (1 + 1e-9) - off))
            self.assertTrue(np.all(ramps.speeds[:, [0, -1]] <= base[:, None] * (1 + 1e-12)))
            ends = ramps.speeds[:, :-1] + np.diff(ramps.breaks_s) * (
                ramps.accelerations + np.diff(ramps.breaks_s) * ramps.jerks / 2
            )
            grain = 1e-9 * v + 1e-14 * ramps.durations_s * np.maximum(up, down)
            self.assertTrue(np.all(np.abs(ends - ramps.speeds[:, 1:]).max(axis=1) <= grain))
            if ramps.accelerations.shape[1] == 3:
                self.assertFalse(ramps.jerks.any())
            elif ramps.accelerations.shape[1] == 7:
                cruise, reached = np.diff(ramps.places)[:, 3], ramps.speeds[:, 3] >= v * (1 - 1e-12)
                self.assertTrue(np.all(reached | (cruise <= 1e-9 * x) | (first > 0)))
                self.assertTrue(np.all(np.abs(ramps.jerks) <= j[:, None]))
                self.assertTrue(np.all(ramps.accelerations[:, [0, 3, 4]] == 0.0))
            else:
                most = falling(speeds, v[:, None], up[:, None], corner[:, None])
                self.assertLess(float(((rates - 4 * off) / most).max()), 1 + 1e-4)
                least = falling(speeds, v[:, None], down[:, None], corner[:, None])
                self.assertLess(float(((-rates - 4 * off) / least).max()), 1 + 1e-4)

    def test_however_short_it_is_an_s_curve_takes_what_its_jerk_does(self):
        """From rest to rest by four changes of acceleration of equal time: (32 x / j)^(1/3)."""
        distance = 10.0 ** np.arange(-60.0, 1.0)
        ramps = s_curve(distance, speed=1e3, acceleration=1e9, deceleration=1e9, jerk=2.0)
        np.testing.assert_allclose(ramps.durations_s, np.cbrt(16 * distance), rtol=1e-9)

    def test_an_s_curve_is_the_fastest_there_is(self):
        """Against a linear program: over the same time nothing within the limits gets farther."""
        table = [  # distance, speed, up, down, jerk, speed at both ends
            (100, 20, 50, 50, 400, 0), (1, 20, 50, 50, 400, 0), (10, 20, 50, 10, 90, 0), (1, 30, 500, 20, 900, 5),
            (0.01, 20, 50, 50, 300, 0), (30, 20, 50, 10, 20, 3), (12, 5, 50, 50, 60, 4),
        ]  # fmt: skip
        for x, v, up, down, j, ends in table:
            ramp = s_curve(np.array([float(x)]), speed=v, acceleration=up, deceleration=down, jerk=j, start_speed=ends)
            times = np.unique(np.concatenate([np.linspace(*pair, 9) for pair in pairwise(ramp.breaks_s[0])]))
            h = np.diff(times)
            count = len(h)
            # The state at each node is linear in the jerks of the intervals before it.
            rate = np.tril(np.ones((count, count))) * h
            rate_before = np.vstack((np.zeros(count), rate[:-1]))
            speed = np.cumsum(rate_before * h[:, None] + np.diag(h * h / 2), axis=0)
            speed_before = np.vstack((np.zeros(count), speed[:-1]))
            way = (speed_before * h[:, None] + rate_before * (h * h / 2)[:, None] + np.diag(h**3 / 6)).sum(axis=0)
            first = float(ramp.speeds[0, 0])
            best = linprog(
                -way, A_ub=np.vstack((rate, -rate, speed, -speed)),
                b_ub=np.repeat([up, down, v - first, first], count), A_eq=np.vstack((rate[-1], speed[-1])), b_eq=[0, 0],
                bounds=[(-j, j)] * count,
            )  # fmt: skip
            self.assertEqual(best.status, 0)
            self.assertAlmostEqual((first * times[-1] - best.fun) / x, 1.0, delta=1e-6, msg=(x, v, j))

    def test_a_trapezoid_is_the_fastest_there_is(self):
        """As for the S-curve, with the acceleration free within its limits."""
        for x, v, up, down, ends in (
            (100, 20, 50, 50, 0),
            (1, 20, 50, 50, 0),
            (10, 20, 50, 10, 5),
            (0.01, 20, 9, 50, 0),
        ):
            ramp = trapezoid(np.array([float(x)]), speed=v, acceleration=up, deceleration=down, start_speed=ends)
            times = np.unique(np.concatenate([np.linspace(*pair, 9) for pair in pairwise(ramp.breaks_s[0])]))
            h, count, first = np.diff(times), len(times) - 1, float(ramp.speeds[0, 0])
            speed = np.tril(np.ones((count, count))) * h
            way = (np.vstack((np.zeros(count), speed[:-1])) * h[:, None] + np.diag(h * h / 2)).sum(axis=0)
            limits_of_speed = np.repeat([v - first, first], count)
            best = linprog(
                -way, A_ub=np.vstack((speed, -speed)), b_ub=limits_of_speed, A_eq=speed[-1:], b_eq=[0],
                bounds=[(-down, up)] * count,
            )  # fmt: skip
            self.assertAlmostEqual((first * times[-1] - best.fun) / x, 1.0, delta=1e-6, msg=(x, v))

    def test_a_ramp_along_the_torque_is_nearly_the_fastest(self):
        """Within 2 % of the fastest by a fine search over speed, for short moves and long, flat curves and steep."""
        for x, v, plateau, corner in itertools.product(
            (0.05, 2.0, 500.0), (3.0, 40.0), (20.0, 900.0), (0.02, 0.3, 1.0)
        ):
            ramp = torque_ramp(
                np.array([x]), np.zeros(1), np.array([v]),
                lambda at, v=v, a=plateau, c=corner: (falling(at, v, a, c), falling(at, v, a / 2, c)),
            )  # fmt: skip
            fine = np.linspace(0.0, v, 400_001)
            middle, step = (fine[1:] + fine[:-1]) / 2, fine[1]
            seconds, ways = np.zeros(len(middle)), np.zeros(len(middle))
            for share in (1.0, 0.5):
                a = falling(middle, v, plateau * share, corner)
                seconds, ways = seconds + np.cumsum(step / a), ways + np.cumsum(middle * step / a)
            top = min(int(np.searchsorted(ways, x)), len(ways) - 1)
            best = seconds[top] + max(x - ways[top], 0.0) / fine[top + 1]
            self.assertGreater(ramp.durations_s[0] / best, 1 - 2e-3)
            self.assertLess(ramp.durations_s[0] / best, 1.01, (x, v, plateau, corner))


class Together(unittest.TestCase):
    """Axes of several shapes in one move: they start and end together, and none of them passes what is its own."""

    def axes(self, **shapes):
        names = {"none": "A", "trapezoid": "B", "s_curve": "C", "torque": "D"}
        return [
            screw_axis(
                names[shape], 4 * k, limits=limits(*figures, shape=shape, jerk=900.0 if shape == "s_curve" else None)
            )
            for k, (shape, figures) in enumerate(shapes.items())
        ]

    def test_mixed_shapes_keep_to_all_their_limits(self):
        figures = {
            "none": (60.0, 9.0),
            "trapezoid": (50.0, 400.0, 300.0),
            "s_curve": (45.0, 300.0),
            "torque": (400.0, 90000.0),
        }
        for count in (1, 2, 3, 4):
            for shapes in itertools.combinations(figures, count):
                axes = self.axes(**{shape: figures[shape] for shape in shapes})
                ways = {axis.name: "0.31" if k % 2 else "-30" for k, axis in enumerate(axes)}
                far = {axis.name: "30" for axis in axes}
                built = machine(*axes, blocks=(move(by=ways), move(by=far), move(by={axes[-1].name: "-7"})))
                made = plan(built)
                spread = {round(axis.train.corners()[0][0], 12) for axis in made.axes}
                self.assertEqual(len(spread), 1, shapes)
                for axis, shape in zip(made.axes, shapes, strict=True):
                    times = np.linspace(0.0, made.duration, 4001)
                    ratio, own = float(axis.steps_per_unit), axis.axis.limits
                    speeds = axis.train.speed(times) / ratio
                    self.assertLessEqual(float(np.abs(speeds).max()), own.speed * (1 + 1e-9))
                    at, speeds, rates = axis.train.course(3)
                    if shape in ("trapezoid", "s_curve"):
                        most = max(own.acceleration, own.deceleration) * ratio * (1 + 1e-9)
                        self.assertLessEqual(float(np.abs(rates).max()), most)
                    if shape == "s_curve":
                        longer = at[:, 2] > at[:, 0] + 1e-6
                        changes = np.diff(rates[longer]) / np.diff(at[longer])
                        self.assertLessEqual(float(np.abs(changes).max()), 900 * ratio * (1 + 1e-5))
                    if shape == "torque":
                        forward, _backward = pulls_of(built, axis.axis)
                        can = np.interp(np.abs(speeds), forward.speeds, np.maximum(forward.up, forward.down))
                        self.assertLess(float((np.abs(rates) / can).max()), 1 + 1e-4)

    def test_each_shape_alone(self):
        """No ramp takes distance over speed, an S-curve a time for each change; torque that is ample is a trapezoid."""
        spans = {}
        for shape in ("none", "trapezoid", "s_curve", "torque"):
            (axis,) = self.axes(**{shape: (40.0, 300.0)})
            made = plan(machine(axis, blocks=(move(by={axis.name: "30"}),)))
            spans[shape] = made.blocks[0].end_s - made.blocks[0].begin_s
        self.assertAlmostEqual(spans["none"], 30 / 40)
        self.assertAlmostEqual(spans["trapezoid"], 30 / 40 + 40 / 300)
        self.assertAlmostEqual(spans["s_curve"], 30 / 40 + 2 * math.sqrt(40 / 900))
        self.assertAlmostEqual(spans["torque"], spans["trapezoid"])

    def test_a_band_is_never_stayed_in(self):
        """A wished speed in a band becomes its lower edge, for the axis and for all that move with it."""
        lift = screw_axis("Lift", limits=limits(40.0, avoid=((10.0, 12.0), (30.0, 45.0))))
        disc = coil_axis("Disc", 4)
        for blocks, peak in (
            ((move(by={"Lift": "60"}),), 30.0), ((move(by={"Lift": "60"}, speed_factor=0.275),), 10.0),
            ((move(by={"Lift": "60"}, speed_factor=0.7),), 28.0), ((move(by={"Lift": "60", "Disc": "1152"}),), 30.0),
            ((move(by={"Lift": "60", "Disc": "4000"}),), 10.0),
        ):  # fmt: skip
            made = plan(machine(lift, disc, blocks=blocks))
            self.assertAlmostEqual(made.axes[0].peak_speed, peak)

    def test_a_motor_that_cannot_move_its_load_is_told(self):
        lift = screw_axis("Lift", limits=limits(40.0, shape="torque"))
        heavy = replace(lift, load=replace(lift.load, force_n=1e5))
        with self.assertRaisesRegex(PlanError, r"axes\[0\].limits.shape: .*cannot move its load.*Lower the load"):
            plan(machine(heavy, blocks=(move(by={"Lift": "1"}),)))
