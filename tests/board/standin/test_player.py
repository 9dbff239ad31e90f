"""Playing spans: the plan's steps, and braking that keeps to the path and to every deceleration."""

import unittest
from decimal import Decimal
from fractions import Fraction

import numpy as np

from kivant.board.protocol.spans import Span, spans
from kivant.board.standin.player import Player
from kivant.core.machine import Pause
from kivant.core.plan import Plan, plan
from kivant.core.travel.conversion import nearest_step
from tests.machines import coil_axis, limits, machine, move, screw_axis

LIFT = screw_axis(limits=limits(40.0, 120.0, 90.0))
DISC = coil_axis(first_line=4, limits=limits(300.0, 500.0, 800.0))
BLOCKS = (move(to={"Lift": "60", "Disc": "-200"}), Pause(seconds=0.3), move(to={"Lift": "10", "Disc": "0"}))


def loaded(made: Plan, capacity: int = 100_000, complete: bool = True) -> Player:
    player = Player(made.machine.board.tick_hz, capacity)
    player.reset(len(made.axes))
    player.append(list(spans(made)))
    player.complete = complete
    player.start()
    return player


class Playing(unittest.TestCase):
    def test_spans_are_the_plan(self):
        """Whole ticks, whole steps, one direction each, short, and within a half span of the planned instants."""
        made = plan(machine(LIFT, DISC, blocks=BLOCKS))
        found = list(spans(made))
        self.assertEqual(sum(s.ticks for s in found), round(made.duration * 1e6))
        for i, axis in enumerate(made.axes):
            steps = np.array([s.steps[i] for s in found])
            ends = np.cumsum([s.ticks for s in found]) / 1e6
            self.assertEqual(int(steps.sum()), axis.final_steps)
            self.assertEqual(int(np.abs(steps).sum()), axis.steps)
            np.testing.assert_allclose(np.cumsum(steps), axis.train.steps_at(ends), atol=1)
        self.assertLessEqual(max(s.ticks for s in found if any(s.steps)), 10_000)

    def test_counts_follow_the_plan_all_the_way(self):
        made = plan(machine(LIFT, DISC, blocks=BLOCKS))
        player, now = loaded(made), 0.0
        for step in (0.0001, 0.013, 0.0777, 0.31) * 40:
            player.advance(step)
            now = min(now + step, made.duration)
            for count, axis in zip(player.now(), made.axes, strict=True):
                self.assertAlmostEqual(count, float(axis.ideal(now)), delta=1.6)
        self.assertEqual((player.state, player.now()), ("IDLE", [axis.final_steps for axis in made.axes]))

    def test_reversals_are_never_lost_in_a_span(self):
        """Forty tiny moves to and fro: every step of each is in the spans, none cancels another."""
        blocks = tuple(move(to={"Lift": "0.013" if k % 2 else "-0.0175"}) for k in range(40))
        made = plan(machine(screw_axis(), blocks=blocks))
        self.assertEqual(sum(abs(s.steps[0]) for s in spans(made)), made.axes[0].steps)

    def test_no_step_half_way_between_two_is_lost(self):
        """Targets on which a step falls at the very end of a move, or at the very beginning of the next."""
        random = np.random.default_rng(2)
        for start_speed in (0.0, 3.0) * 30:
            halves = [Decimal(int(n)) / 200 + Decimal("0.0025") for n in random.integers(-400, 400, 6)]
            lift = screw_axis(limits=limits(random.uniform(5, 60), random.uniform(50, 2000), start=start_speed))
            made = plan(machine(lift, blocks=tuple(move(to={"Lift": half}) for half in halves)))
            steps = [span.steps[0] for span in spans(made)]
            self.assertEqual((sum(steps), sum(map(abs, steps))), (made.axes[0].final_steps, made.axes[0].steps), halves)
            rests = [b.begin_s - a.end_s > 1e-6 for a, b in zip(made.blocks, made.blocks[1:], strict=False)]
            ends = np.round([b.end_s * 1e6 for b, rest in zip(made.blocks, [*rests, True], strict=True) if rest])
            counts = dict(
                zip(np.cumsum([s.ticks for s in spans(made)]).tolist(), np.cumsum(steps).tolist(), strict=True)
            )
            reached = [
                nearest_step(Fraction(half) * 200) for half, rest in zip(halves, [*rests, True], strict=True) if rest
            ]
            self.assertEqual([counts[int(end)] for end in ends], reached, "no step waits for the next move")


class Braking(unittest.TestCase):
    def brake_at(self, made: Plan, at_s: float) -> tuple[Player, np.ndarray, np.ndarray]:
        """Return the player after braking, and real and playing times on the way."""
        player = loaded(made)
        player.advance(at_s)
        player.brake()
        real, played = [0.0], [player.elapsed_s]
        while player.moving:
            player.advance(0.002)
            real.append(real[-1] + 0.002)
            played.append(player.elapsed_s)
        return player, np.array(real), np.array(played)

    def test_no_axis_brakes_harder_than_it_may_whenever_it_is_stopped(self):
        """The speed's slope along real time stays above minus the deceleration, during all phases of a move."""
        made = plan(machine(LIFT, DISC, blocks=BLOCKS))
        for at_s in np.linspace(0.05, made.duration - 0.05, 37):
            player, real, played = self.brake_at(made, float(at_s))
            self.assertIn(player.state, ("STOP", "IDLE"))
            for axis in made.axes:
                way = np.abs(axis.ideal(played) - float(axis.ideal(played[0])))
                slope = (way[20:] - 2 * way[10:-10] + way[:-20]) / 0.02**2
                allowed = axis.axis.limits.deceleration * float(axis.steps_per_unit)
                # Spans of ten milliseconds tell the speed by its peak in them: some per cent is their grain.
                self.assertGreater(slope.min(initial=0.0), -1.05 * allowed, f"{axis.name} at {at_s:.2f} s")
            self.assertLess(real[-1], 40 / 90 + 0.6)

    def test_it_stops_in_the_time_the_deceleration_takes(self):
        """From 40 mm/s at 90 mm/s² in 0.444 s and 8.9 mm, like any braking; both axes still on their line."""
        made = plan(machine(LIFT, DISC, blocks=(move(to={"Lift": "160", "Disc": "-200"}),)))
        player, real, _played = self.brake_at(made, 2.0)
        self.assertAlmostEqual(real[-1], 40 / 90, delta=0.01)
        lift, disc = player.now()
        self.assertAlmostEqual(lift - float(made.axes[0].ideal(2.0)), 40**2 / (2 * 90) * 200, delta=25)
        self.assertAlmostEqual(disc / lift, made.axes[1].final_steps / made.axes[0].final_steps, delta=0.001)

    def test_a_second_brake_while_the_plan_brakes_follows_the_plan(self):
        made = plan(machine(LIFT, blocks=(move(to={"Lift": "60"}), move(to={"Lift": "0"}))))
        player, _real, _played = self.brake_at(made, made.blocks[0].braking_s + 0.02)
        self.assertAlmostEqual(player.now()[0], 12000, delta=3)

    def test_without_more_spans_it_brakes_in_time(self):
        """The host goes on feeding too late: the board stops within what it has, and says so."""
        made = plan(machine(LIFT, blocks=(move(to={"Lift": "160"}),)))
        whole = list(spans(made))
        player = Player(1e6, 1000)
        player.reset(1)
        player.append(whole[:150])
        player.start()
        for _ in range(4000):
            player.advance(0.001)
        self.assertEqual((player.state, player.starved), ("STOP", True))
        self.assertLessEqual(player.now()[0], sum(s.steps[0] for s in whole[:150]))
        self.assertGreater(player.now()[0], sum(s.steps[0] for s in whole[:100]))

    def test_power_off_halts_at_once_with_the_count_of_that_moment(self):
        made = plan(machine(LIFT, blocks=(move(to={"Lift": "160"}),)))
        player = loaded(made)
        player.advance(1.2345)
        before = player.now()
        player.halt()
        player.advance(5.0)
        self.assertEqual((player.state, player.now(), player.room), ("STOP", before, player.capacity))

    def test_levels_know_the_latest_step(self):
        """Step i of n lies at (i - 1/2)/n of its span."""
        player = Player(1000.0)
        player.reset(1)
        player.append([Span(1000, (4,))])
        player.complete = True
        player.start()
        player.advance(0.125 - 1e-6)
        self.assertEqual((player.now(), player.since_last_step(0)), ([0], float("inf")))
        player.advance(0.026)
        self.assertEqual(player.now(), [1])
        self.assertAlmostEqual(player.since_last_step(0), 0.026 - 1e-6)
