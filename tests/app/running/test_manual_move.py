"""Pulls by hand: within every limit, never past an end, never a jump beyond the start speed, braked when let go."""

import threading
import unittest
from collections.abc import Callable
from dataclasses import replace
from decimal import Decimal

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from kivant.app.document.examples import load_example
from kivant.app.running.manual_move import SPAN_S, ManualMove
from kivant.app.running.status import Status
from kivant.app.running.streamer import Streamer
from kivant.board.standin.clock import SteadyClock
from kivant.board.standin.player import Player
from kivant.core.plan import PlanError
from tests.machines import limits, machine, screw_axis

ENDED = screw_axis(limits=limits(40.0, 300.0, 200.0, min=Decimal(-5), max=Decimal(25)))
JUMPY = replace(ENDED, limits=replace(ENDED.limits, start_speed=15.0))


class Motion(unittest.TestCase):
    def spans(self, source: ManualMove, pulls: list[float]) -> np.ndarray:
        """Return the steps of each span for a pull in each, then let go until it rests."""
        steps = []
        for share in pulls:
            source.pull(share)
            steps.append(source.next_span().steps[0])
        source.release()
        while not source.ended:
            steps.append(source.next_span().steps[0])
        return np.array(steps)

    @settings(max_examples=60, deadline=None)
    @given(
        st.lists(st.floats(-1.5, 1.5), min_size=1, max_size=8),
        st.integers(1, 60),
        st.integers(-4, 24),
        st.sampled_from((ENDED, JUMPY)),
    )
    def test_however_it_is_pulled_no_limit_is_passed(self, pulls, each, start, axis):
        """Speed, acceleration and ends hold for any hand; afterwards it stands, and the count is the sum."""
        source = ManualMove(machine(axis), 0, {"Lift": Decimal(start)})
        steps = self.spans(source, [share for share in pulls for _ in range(each)])
        position = start * 200 + np.concatenate(([0], np.cumsum(steps)))
        self.assertGreaterEqual(position.min(), -5 * 200)
        self.assertLessEqual(position.max(), 25 * 200)
        speeds = steps / SPAN_S / 200
        self.assertLessEqual(float(np.abs(speeds).max()), 40 + 1 / SPAN_S / 200)
        grain = 2 / SPAN_S / 200  # whole steps in a span tell the speed to a step or two
        change = np.abs(np.diff(np.concatenate(([0.0], speeds, [0.0]))))
        jump = axis.limits.start_speed
        self.assertLessEqual(float(change.max()), 300 * SPAN_S + grain + jump)
        self.assertEqual((int(position[-1]),), source.final_steps())

    def test_it_brakes_in_the_time_of_its_deceleration(self):
        """From 20 mm/s at 200 mm/s² in a tenth of a second, five spans."""
        source = ManualMove(machine(replace(ENDED, limits=limits(40.0, 300.0, 200.0))), 0, {})
        steps = self.spans(source, [0.5] * 30)
        self.assertEqual(len(steps) - 30, 5)
        self.assertAlmostEqual(steps[25] / SPAN_S / 200, 20.0, delta=0.5)

    def test_the_start_speed_is_jumped_to_and_from(self):
        """At 15 mm/s a pull of 15 mm/s is at its speed in its first span, and at rest as soon as it is let go."""
        source = ManualMove(machine(JUMPY), 0, {})
        steps = self.spans(source, [15 / 40] * 10)
        self.assertEqual(steps.tolist(), [60] * 10 + [0])
        fast = self.spans(ManualMove(machine(JUMPY), 0, {}), [1.0] * 3)
        self.assertAlmostEqual(fast[0] / SPAN_S / 200, (15 + 15 + 300 * SPAN_S) / 2, delta=0.5)

    def test_the_board_could_always_brake(self):
        """Fed as a hand would feed it, the board never runs short, and at a cut line it stands before the path ends."""
        source = ManualMove(machine(ENDED), 0, {})
        player = Player(1e6)
        player.reset(1)
        source.pull(1.0)
        player.append(source.take(0.0, 512))
        player.start()
        for _ in range(3000):
            player.advance(0.001)
        self.assertEqual((player.state, player.starved), ("STOP", True))
        self.assertLess(player.now()[0], source.final_steps()[0])

    def test_an_axis_beyond_its_end_is_not_pulled(self):
        with self.assertRaisesRegex(PlanError, "Lift would go to 30 mm, beyond its max of 25"):
            ManualMove(machine(ENDED), 0, {"Lift": Decimal(30)})


class OnABoard(unittest.TestCase):
    def pull(self, index: int, share: float, until: Callable[[Status], bool], stops: int = 0) -> Status:
        # A computer that runs tests may stall for longer than the board is kept ahead, which would brake by itself.
        source = ManualMove(load_example(), index, {"Lift": Decimal(100)}, ahead_s=1.0)
        work = Streamer(lambda: source, clock=SteadyClock())
        source.pull(share)
        thread = threading.Thread(target=work.execute)
        thread.start()
        while thread.is_alive() and not until(work.status):
            thread.join(0.005)
        for _ in range(stops):
            work.stop()
        if not stops:
            source.release()
            work.wake()
        thread.join(10)
        self.assertFalse(thread.is_alive())
        self.assertEqual(work.status.message, "")
        self.assertEqual([r.planned_steps for r in work.status.results][0 if index else 1], 0 if index else 20000)
        return work.status

    def test_pulled_and_let_go_it_stands_where_it_was_sent(self):
        status = self.pull(1, 0.5, lambda status: status.elapsed_s > 0.3)
        lift = status.results[1]
        self.assertEqual((status.phase, lift.planned_steps), ("done", lift.board_steps))
        self.assertGreater(lift.board_steps, 20500)

    def test_the_shortest_pull_is_no_fault(self):
        """Let go before the board was even reached, or in the midst of the first spans: it ends well, as counted."""
        for spans_before in (0, 1, 3):
            source = ManualMove(load_example(), 1, {"Lift": Decimal(100)})
            source.pull(1.0)
            make, made = source.next_span, []

            def next_span(source=source, make=make, made=made, upto=spans_before):
                made.append(make())
                if len(made) >= upto:
                    source.release()
                return made[-1]

            source.next_span = next_span
            if not spans_before:
                source.release()
            status = Streamer(lambda s=source: s).execute()
            self.assertEqual((status.phase, status.message), ("done", ""), spans_before)
            self.assertEqual(status.results[1].planned_steps, status.results[1].board_steps)

    def test_a_stop_brakes_and_a_second_cuts_the_power(self):
        status = self.pull(1, 1.0, lambda status: status.elapsed_s > 0.3, stops=1)
        self.assertGreater(status.results[1].board_steps, 20500)
        self.assertTrue(status.power)
        status = self.pull(1, 1.0, lambda status: status.elapsed_s > 0.3, stops=2)
        self.assertEqual((status.phase, status.power), ("stopped", False))
