"""Moving by hand: within every limit, never past an end, never a jump, and braked when let go."""

import threading
import time
import unittest
from dataclasses import replace
from decimal import Decimal

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from kivant.app.examples import load_example
from kivant.app.jog import SPAN_S, Jog
from kivant.board.player import Player
from tests.machines import limits, machine, screw_axis

ENDED = screw_axis(limits=limits(40.0, 300.0, 200.0, min=Decimal(-5), max=Decimal(25)))


class Motion(unittest.TestCase):
    def spans(self, jog: Jog, pulls: list[float]) -> np.ndarray:
        """Return the steps of each span for a pull in each, then let go until it rests."""
        steps = []
        for share in pulls:
            jog.pull(share)
            steps.append(jog.next_span().steps[0])
        jog.release()
        while not jog._resting:
            steps.append(jog.next_span().steps[0])
        return np.array(steps)

    @settings(max_examples=60, deadline=None)
    @given(st.lists(st.floats(-1.5, 1.5), min_size=1, max_size=8), st.integers(1, 60), st.integers(-4, 24))
    def test_however_it_is_pulled_no_limit_is_passed(self, pulls, each, start):
        """Speed, acceleration and ends hold for any hand; afterwards it stands, and the count is the sum."""
        jog = Jog(machine(ENDED), 0, {"Lift": Decimal(start)})
        steps = self.spans(jog, [share for share in pulls for _ in range(each)])
        position = start * 200 + np.concatenate(([0], np.cumsum(steps)))
        self.assertGreaterEqual(position.min(), -5 * 200)
        self.assertLessEqual(position.max(), 25 * 200)
        speeds = steps / SPAN_S / 200
        self.assertLessEqual(float(np.abs(speeds).max()), 40 + 1 / SPAN_S / 200)
        grain = 2 / SPAN_S / 200  # whole steps in a span tell the speed to a step or two
        change = np.abs(np.diff(np.concatenate(([0.0], speeds, [0.0]))))
        self.assertLessEqual(float(change.max()), 300 * SPAN_S + grain)
        self.assertEqual(position[-1], jog._steps)

    def test_it_brakes_in_the_time_of_its_deceleration(self):
        """From 20 mm/s at 200 mm/s² in a tenth of a second, five spans."""
        jog = Jog(machine(replace(ENDED, limits=limits(40.0, 300.0, 200.0))), 0, {})
        steps = self.spans(jog, [0.5] * 30)
        self.assertEqual(len(steps) - 30, 5)
        self.assertAlmostEqual(steps[25] / SPAN_S / 200, 20.0, delta=0.5)

    def test_the_board_could_always_brake(self):
        """Fed as a hand would feed it, the board never runs short, and at a cut line it stands before the path ends."""
        jog = Jog(machine(ENDED), 0, {})
        player = Player(1e6)
        player.reset(1)
        jog.pull(1.0)
        player.append([jog.next_span() for _ in range(12)])
        player.start()
        for _ in range(3000):
            player.advance(0.001)
        self.assertEqual((player.state, player.starved), ("STOP", True))
        self.assertLess(player.now()[0], jog._steps)


class OnABoard(unittest.TestCase):
    def pull(self, index: int, share: float, seconds: float, stops: int = 0) -> Jog:
        jog = Jog(load_example(), index, {"Lift": Decimal(100)})
        thread = threading.Thread(target=jog.execute)
        thread.start()
        jog.pull(share)
        time.sleep(seconds)
        for _ in range(stops):
            jog.stop()
        if not stops:
            jog.release()
        thread.join(5)
        self.assertFalse(thread.is_alive())
        self.assertEqual(jog.status.message, "")
        self.assertEqual(
            [r.planned_steps for r in jog.status.results][0 if index else 1], [0, 20000][0 if index else 1]
        )
        return jog

    def test_pulled_and_let_go_it_stands_where_it_was_sent(self):
        jog = self.pull(1, 0.5, 0.5)
        lift = jog.status.results[1]
        self.assertEqual((jog.status.phase, lift.planned_steps), ("done", lift.board_steps))
        self.assertGreater(lift.board_steps, 20500)
        self.assertLess(lift.board_steps, 24000)

    def test_the_shortest_pull_is_no_fault(self):
        """Let go before the board was even reached, or in the midst of the first spans: it ends well, as counted."""
        for spans_before in (0, 1, 3):
            jog = Jog(load_example(), 1, {"Lift": Decimal(100)})
            jog.pull(1.0)
            make, made = jog.next_span, []

            def next_span(jog=jog, make=make, made=made, upto=spans_before):
                made.append(make())
                if len(made) >= upto:
                    jog.release()
                return made[-1]

            jog.next_span = next_span
            if not spans_before:
                jog.release()
            status = jog.execute()
            self.assertEqual((status.phase, status.message), ("done", ""), spans_before)
            self.assertEqual(status.results[1].planned_steps, status.results[1].board_steps)

    def test_a_stop_brakes_and_a_second_cuts_the_power(self):
        jog = self.pull(1, 1.0, 0.5, stops=1)
        self.assertGreater(jog.status.results[1].board_steps, 20500)
        self.assertTrue(jog.status.power)
        jog = self.pull(1, 1.0, 0.5, stops=2)
        self.assertEqual((jog.status.phase, jog.status.power), ("stopped", False))
