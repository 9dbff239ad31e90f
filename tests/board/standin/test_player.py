"""Playing spans: the plan in time, braking that keeps to the path and to every limit, and a tail that is replaced."""

import random
import unittest
from decimal import Decimal

import numpy as np
from hypothesis import example, given, settings
from hypothesis import strategies as st

from kivant.board.protocol.record import AxisSpan, Span
from kivant.board.protocol.spans import quadratic, spans
from kivant.board.standin.axis_play import HALF_WAY, Timing
from kivant.board.standin.player import Player
from kivant.core.machine import Pause, Spin
from kivant.core.plan import Plan, PlanError, plan
from tests.board.played import loaded
from tests.machines import coil_axis, limits, machine, move, screw_axis

LIFT = screw_axis(limits=limits(40.0, 120.0, 90.0))
DISC = coil_axis(first_line=4, limits=limits(300.0, 500.0, 800.0))
BLOCKS = (move(to={"Lift": "60", "Disc": "-200"}), Pause(seconds=0.3), move(to={"Lift": "10", "Disc": "0"}))


class Playing(unittest.TestCase):
    def test_counts_follow_the_plan_all_the_way(self):
        made = plan(machine(LIFT, DISC, blocks=BLOCKS))
        player, now = loaded(made), 0.0
        for step in (0.0001, 0.013, 0.0777, 0.31) * 40:
            player.advance(step)
            now = min(now + step, made.duration)
            for count, axis in zip(player.now(), made.axes, strict=True):
                self.assertAlmostEqual(count, float(axis.ideal(now)), delta=0.55)
        self.assertEqual((player.state, player.now()), ("IDLE", [axis.final_steps for axis in made.axes]))

    def test_power_off_halts_at_once_with_the_count_of_that_moment(self):
        made = plan(machine(LIFT, blocks=(move(to={"Lift": "160"}),)))
        player = loaded(made)
        player.advance(1.2345)
        before = player.now()
        player.halt()
        player.advance(5.0)
        self.assertEqual((player.state, player.now(), player.room), ("STOP", before, player.capacity))

    def test_the_direction_changes_when_hold_is_over_and_steps_wait_for_the_driver(self):
        """Up at 0.05 s and, in the spans, down at 0.15 s; hold takes 30 ms, a turn 0.15 s: down at 0.2 s."""
        player = Player(1000.0)
        player.reset(1)
        player.axes[0].timing = Timing(0.01, 0.15, 0.03)
        there, rest = HALF_WAY + (1 << 32), HALF_WAY
        player.append([Span(100, (quadratic(100, rest, there, 0),)), Span(100, (quadratic(100, there, rest, 0),))])
        player.append([Span(200, (AxisSpan(rest),))])
        player.complete = True
        player.start()
        looks = []
        for at in (0.0495, 0.0515, 0.0815, 0.199, 0.2012):
            player.advance(at - player.elapsed_s)
            looks.append((player.now()[0], player.direction(0), player.axes[0].since_step(player.within_s) < 0.001))
        self.assertEqual(looks, [(0, 1, False), (1, 1, True), (1, -1, False), (1, -1, False), (0, -1, True)])


class Braking(unittest.TestCase):
    def brake_at(self, made: Plan, at_s: float, step_s: float = 0.001) -> tuple[Player, np.ndarray]:
        """Return the player after braking, and how much of the plan was played at each step of real time."""
        player = loaded(made)
        player.advance(at_s)
        player.brake()
        played = [player.elapsed_s]
        while player.moving:
            player.advance(step_s)
            played.append(player.elapsed_s)
        return player, np.array(played)

    @settings(max_examples=60)
    @given(
        st.lists(st.tuples(st.integers(-60, 60), st.integers(-300, 300)), min_size=1, max_size=4),
        st.tuples(*[st.floats(20, 900)] * 4),
        st.floats(0.001, 0.999),
        st.sampled_from((20_000, 1_000_000)),
    )
    @example([(0, 1), (0, 0)], (20.0, 20.0, 408.0, 20.0), 0.02, 1_000_000)
    @example([(0, 1), (0, 0)], (20.0, 20.0, 408.0, 20.0), 0.02, 20_000)
    def test_no_limit_is_exceeded_wherever_it_is_stopped(self, targets, rates, share, hz):
        """Each axis's speed along real time rises and falls no faster than it may, and all axes stay on the path."""
        lift = screw_axis(limits=limits(40.0, rates[0], rates[1]))
        disc = coil_axis(first_line=4, limits=limits(300.0, rates[2], rates[3]))
        made = plan(machine(lift, disc, blocks=tuple(move(to={"Lift": a, "Disc": b}) for a, b in targets), tick_hz=hz))
        player, played = self.brake_at(made, share * made.duration)
        for axis, count in zip(made.axes, player.now(), strict=True):
            self.assertAlmostEqual(count, float(axis.ideal(played[-1])), delta=1.0)
            ratio = float(axis.steps_per_unit)
            speeds = np.diff(axis.ideal(played)) / 0.001 / ratio
            rise = np.diff(speeds[:-1]) / 0.001  # what it does in the millisecond in which it comes to rest is its jump
            toward = np.where(speeds[1:-1] + speeds[:-2] >= 0, 1, -1) * rise
            turned = speeds[1:-1] * speeds[:-2] < 0
            up, down = axis.axis.limits.acceleration, axis.axis.limits.deceleration
            late = 1.0 + (up + down) / hz / 0.001  # in the spans the acceleration changes on a whole tick
            self.assertLessEqual(float(np.max(toward[~turned], initial=0.0)), 1.02 * up + late)
            self.assertGreaterEqual(float(np.min(toward[~turned], initial=0.0)), -1.04 * down - late)
            self.assertLessEqual(abs(float(speeds[-1])), 0.004 * down + 0.01)

    def test_no_axis_is_torn_to_a_stop_whatever_the_others_do(self):
        """Axes that turn on at speeds of their own: while one brakes with all it has, another may only speed up.

        Stopped anywhere, or left without more spans: it stands from a speed that it loses within a millisecond.
        """
        chance = random.Random(11)
        for number in range(60):
            names = "ABC"[: chance.randint(2, 3)]
            rates = [(chance.uniform(20, 300), chance.uniform(20, 300), chance.choice((None, 3000.0))) for _ in names]
            axes = [
                screw_axis(name, 4 * k, limits=limits(40.0, up, down, jerk=jerk))
                for k, (name, (up, down, jerk)) in enumerate(zip(names, rates, strict=True))
            ]
            spins = (
                Spin(
                    speeds={name: Decimal(chance.randint(-30, 30)) for name in chance.sample(names, 2)},
                    seconds=chance.uniform(0.3, 2),
                )
                for _ in range(5)
            )
            try:
                made = plan(machine(*axes, blocks=tuple(spins)))
            except PlanError:  # too short a time to get from one speed to the next
                continue
            every = list(spans(made))
            stopped, left = (
                loaded(made, every),
                loaded(made, every[: chance.randint(2, len(every) - 1)], complete=False),
            )
            stopped.advance(chance.uniform(0.02, 0.98) * made.duration)
            stopped.brake()
            for player in (stopped, left):
                while player.moving:
                    at_s, rate = player.elapsed_s, player.rate
                    player.advance(0.0005)
                for axis in made.axes:
                    speed = abs(float(axis.train.speed(at_s))) * rate / float(axis.steps_per_unit)
                    self.assertLess(speed, 0.001 * axis.axis.limits.deceleration, f"{number}: {axis.name}")

    def test_it_stops_in_the_time_the_deceleration_takes(self):
        """From 40 mm/s at 90 mm/s² in 0.444 s and 8.9 mm, like any braking; both axes still on their line."""
        made = plan(machine(LIFT, DISC, blocks=(move(to={"Lift": "160", "Disc": "-200"}),)))
        player, played = self.brake_at(made, 2.0)
        self.assertAlmostEqual((len(played) - 1) * 0.001, 40 / 90, delta=0.003)
        lift, disc = player.now()
        self.assertAlmostEqual(lift - float(made.axes[0].ideal(2.0)), 40**2 / (2 * 90) * 200, delta=5)
        self.assertAlmostEqual(disc / lift, made.axes[1].final_steps / made.axes[0].final_steps, delta=0.001)

    def test_a_brake_while_the_plan_accelerates_takes_no_longer_than_its_speed_needs(self):
        """At 0.2 s it goes 24 mm/s: it stands after 24/90 s, although the plan would have gone on to 40 mm/s."""
        made = plan(machine(LIFT, blocks=(move(to={"Lift": "160"}),)))
        _player, played = self.brake_at(made, 0.2)
        self.assertAlmostEqual((len(played) - 1) * 0.001, 24 / 90, delta=0.005)

    def test_a_brake_while_the_plan_brakes_follows_the_plan(self):
        made = plan(machine(LIFT, blocks=(move(to={"Lift": "60"}), move(to={"Lift": "0"}))))
        player, _played = self.brake_at(made, made.blocks[0].end_s - 40 / 90 + 0.02)
        self.assertAlmostEqual(player.now()[0], 12000, delta=1)

    def test_without_more_spans_it_brakes_in_time(self):
        """The host goes on feeding too late: the board stops within what it has, and says so; not sooner than it must."""
        made = plan(machine(LIFT, blocks=(move(to={"Lift": "160"}),)))
        some = list(spans(made))[:9]
        end_s = sum(span.ticks for span in some) / 1e6
        player = loaded(made, some, complete=False)
        for _ in range(4000):
            player.advance(0.001)
        self.assertEqual((player.state, player.starved), ("STOP", True))
        last = float(made.axes[0].ideal(end_s))
        self.assertLess(player.now()[0], last)
        self.assertGreater(player.now()[0], last - 40 * 200 * (40 / 90 / 2 + 0.03))


class Replacing(unittest.TestCase):
    def test_the_tail_goes_and_what_is_played_stays(self):
        """Three spans up; in the second, the third is replaced by one down."""
        player = Player(1000.0)
        player.reset(1)
        places = [HALF_WAY + (10 * k << 32) for k in range(4)]
        player.append([Span(100, (quadratic(100, a, b, 0),)) for a, b in zip(places, places[1:], strict=False)])
        player.start()
        player.advance(0.15)
        self.assertEqual((player.begun, player.accepted), (2, 3))
        player.cut(2)
        player.append([Span(100, (quadratic(100, places[2], places[1], 0),)), Span(50, (AxisSpan(places[1]),))])
        player.complete = True
        for _ in range(40):
            player.advance(0.01)
        self.assertEqual((player.state, player.now(), round(player.elapsed_s, 9)), ("IDLE", [10], 0.35))
