"""Pulls by hand: within every limit, never past an end, never a jump beyond the start speed, braked when let go."""

import threading
import unittest
from collections.abc import Callable
from decimal import Decimal
from fractions import Fraction
from unittest import mock

import numpy as np
from hypothesis import example, given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from kivant.app.document.examples import load_example
from kivant.app.running.manual_move import SPAN_S, ManualMove
from kivant.app.running.standing import Standing
from kivant.app.running.status import Status
from kivant.app.running.streamer import Streamer
from kivant.board.protocol.syntax import spellings
from kivant.board.standin.braking import MARGIN_S
from kivant.board.standin.clock import SteadyClock
from kivant.board.standin.commands import COMMANDS
from kivant.board.standin.player import Player
from kivant.core.machine import Axis
from kivant.core.machine.parts import Calibration
from kivant.core.plan import PlanError
from kivant.core.travel.play import Sense
from tests.machines import limits, machine, screw_axis

ENDED = screw_axis(limits=limits(40.0, 300.0, 200.0, min=Decimal(-5), max=Decimal(25)))
LOOSE = replace(ENDED, calibration=Calibration(backlash=0.5))
JUMPY = replace(ENDED, limits=replace(ENDED.limits, start_speed=15.0))


def standing_at(places, senses=()) -> Standing:
    """Return where axes stand, their play taken up as they were calibrated if nothing else is said."""
    found = Standing()
    found.places, found.senses = dict(places), dict(senses)
    return found


class Hand:
    """A source and the player it feeds, in time that passes as the test says."""

    def __init__(self, source: ManualMove, capacity: int = 512) -> None:
        self.source, self.player = source, Player(1e6, capacity)
        self.player.reset(len(source.start_places))
        for axis, place in zip(self.player.axes, source.start_places, strict=True):
            axis.put(place >> 32, place % 2**32)
        self.feed()
        self.player.start()
        self.positions = [source.start_places[source.index] / 2**32 - 0.5]

    def feed(self) -> None:
        feed = self.source.offer(self.player.begun, self.player.room)
        if feed is not None:
            self.player.cut(feed.first or 0)
            self.player.append(feed.spans)
            self.source.accept(feed)
        self.player.complete = self.source.ended

    def pass_time(self, seconds: float, poll_s: float = 0.01) -> None:
        """Let time pass; the source is asked at every poll, and the exact position noted every millisecond."""
        for millisecond in range(round(seconds * 1000)):
            if millisecond % round(poll_s * 1000) == 0:
                self.feed()
            self.player.advance(0.001)
            self.positions.append(self.exact())

    def exact(self) -> float:
        """Return the position between steps where the player is, by the sums of the span."""
        axis, span = self.player.axes[self.source.index], self.player.playing
        if span is None:
            return self.positions[-1]
        ticks, (own, begin) = round(self.player.within_s * 1e6), (span.axes[self.source.index], axis.place)
        sums = (begin << 30) + ticks * own.speed + ticks * (ticks - 1) // 2 * own.change
        return sums / 2**62 - 0.5

    def let_go(self) -> None:
        self.source.release()
        while self.player.moving:
            self.pass_time(0.05)


class Motion(unittest.TestCase):
    def hand(self, axis: Axis, at: int = 0, sense: Sense = 1) -> Hand:
        return Hand(ManualMove(machine(axis), 0, standing_at({"Lift": Decimal(at)}, {"Lift": sense})))

    @settings(max_examples=40)
    @given(
        st.lists(st.tuples(st.floats(-1.5, 1.5), st.floats(0.005, 0.7)), min_size=1, max_size=6),
        st.integers(-5, 25),
        st.sampled_from(((ENDED, 1), (JUMPY, 1), (LOOSE, 1), (LOOSE, -1), (LOOSE, Fraction(3, 10)))),
    )
    @example([(1.0, 0.3)], -5, (LOOSE, -1))
    def test_however_it_is_pulled_no_limit_is_passed(self, pulls, start, stands):
        """Speed, acceleration and ends hold for any hand; afterwards it stands, and the count is the sum."""
        axis, sense = stands
        hand = self.hand(axis, start, sense)
        for share, seconds in pulls:
            hand.source.pull(share)
            hand.pass_time(seconds)
        hand.let_go()
        self.assertEqual((hand.player.state, tuple(hand.player.now())), ("IDLE", hand.source.final_steps()))
        position = np.array(hand.positions) / 200
        self.assertGreaterEqual(position.min(), -5.5 if axis is LOOSE else -5)
        self.assertLessEqual(position.max(), 25)
        speeds = np.diff(position) / 0.001
        self.assertLessEqual(float(np.abs(speeds).max()), 40.001)
        change = np.abs(np.diff(np.concatenate(([0.0], speeds, [0.0]))))
        self.assertLessEqual(float(change.max()), 300 * 0.001 * 1.01 + axis.limits.start_speed)

    def test_a_change_of_mind_is_answered_within_two_spans(self):
        """At 40 mm/s the hand lets go, or pulls the other way: 40 ms later the axis brakes with all it has."""
        for share in (None, -1.0, 0.25):
            hand = self.hand(replace(ENDED, limits=limits(40.0, 300.0, 200.0)))
            hand.source.pull(1.0)
            hand.pass_time(1.0)
            hand.source.release() if share is None else hand.source.pull(share)
            hand.pass_time(0.1)
            speeds = np.diff(hand.positions[-61:]) / 200 / 0.001
            np.testing.assert_allclose(np.diff(speeds), -0.2, atol=0.01, err_msg=str(share))

    def test_what_came_too_late_is_offered_anew(self):
        """A board that has gone on takes nothing: a change of mind is not lost by that."""
        hand = self.hand(ENDED)
        hand.source.pull(0.5)
        hand.pass_time(0.5)
        hand.source.pull(-0.5)
        lost = hand.source.offer(hand.player.begun, hand.player.room)
        again = hand.source.offer(hand.player.begun + 1, hand.player.room)
        assert lost is not None and again is not None
        self.assertEqual((again.first or 0) - (lost.first or 0), 1)
        hand.source.accept(again)
        self.assertIsNone(hand.source.offer(hand.player.begun + 1, hand.player.room))

    def test_it_brakes_in_the_time_of_its_deceleration(self):
        """From 20 mm/s at 200 mm/s² in a tenth of a second, behind two spans at the most."""
        hand = self.hand(replace(ENDED, limits=limits(40.0, 300.0, 200.0)))
        hand.source.pull(0.5)
        hand.pass_time(0.6)
        before = hand.player.elapsed_s
        hand.let_go()
        self.assertLessEqual(hand.player.elapsed_s - before, 0.1 + 2 * SPAN_S)
        self.assertGreaterEqual(hand.player.elapsed_s - before, 0.1)

    def test_the_start_speed_is_jumped_to_and_from(self):
        """At 15 mm/s a pull of 15 mm/s is at its speed at once, and at rest as soon as it is let go."""
        hand = self.hand(JUMPY)
        hand.source.pull(15 / 40)
        hand.pass_time(0.2)
        hand.let_go()
        speeds = np.diff(hand.positions) / 200 / 0.001
        moving = speeds[np.abs(speeds) > 0.01]
        np.testing.assert_allclose(moving[1:-1], 15.0, atol=0.01)

    def test_a_band_is_passed_and_never_stayed_in(self):
        """A pull into the band from 10 to 30 mm/s goes at 10, one beyond it goes through; either way."""
        banded = replace(ENDED, limits=limits(40.0, 300.0, 200.0, avoid=((10.0, 30.0),)))
        for share, speed in ((0.5, 10.0), (-0.7, -10.0), (0.2, 8.0), (1.0, 40.0), (0.75, 30.0)):
            hand = self.hand(banded)
            hand.source.pull(share)
            hand.pass_time(0.6)
            speeds = np.diff(hand.positions[-50:]) / 200 / 0.001
            np.testing.assert_allclose(speeds, speed, atol=0.01, err_msg=str(share))

    def test_it_comes_close_to_the_end_it_is_pulled_to(self):
        """The tool does: with play, the motor goes on by as much."""
        for axis, share, end in ((ENDED, 1.0, 25.0), (LOOSE, 1.0, 25.0), (LOOSE, -1.0, -5.5)):
            hand = self.hand(axis)
            hand.source.pull(share)
            hand.pass_time(2.5)
            self.assertAlmostEqual(hand.player.now()[0] / 200, end, delta=0.02)

    def test_the_board_could_always_brake(self):
        """A host that falls silent: the axis stands where its last spans end, or what the board keeps in hand before."""
        hand = self.hand(ENDED)
        hand.source.pull(1.0)
        hand.pass_time(0.3)
        for _ in range(2000):
            hand.player.advance(0.001)
        self.assertEqual((hand.player.state, hand.player.starved), ("STOP", True))
        short = hand.source.final_steps()[0] - hand.player.now()[0]
        self.assertTrue(0 <= short <= 1 + MARGIN_S * 40 * 200, short)

    def test_a_small_buffer_is_enough(self):
        hand = Hand(ManualMove(machine(ENDED), 0, standing_at({})), capacity=8)
        hand.source.pull(0.5)
        hand.pass_time(0.7)
        self.assertAlmostEqual(np.diff(hand.positions)[-1] / 0.001 / 200, 20.0, delta=0.01)

    def test_an_axis_beyond_its_end_is_not_pulled(self):
        with self.assertRaisesRegex(PlanError, "Lift would begin at 30 mm, beyond its max of 25"):
            ManualMove(machine(ENDED), 0, standing_at({"Lift": Decimal(30)}))


class OnABoard(unittest.TestCase):
    def pull(self, index: int, share: float, until: Callable[[Status], bool], stops: int = 0) -> Status:
        # A computer that runs tests may stall for longer than the board is kept ahead, which would brake by itself.
        source = ManualMove(load_example(), index, standing_at({"Lift": Decimal(100)}), ahead_s=1.0)
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
        for offers_before in (0, 1, 3):
            source = ManualMove(load_example(), 1, standing_at({"Lift": Decimal(100)}))
            source.pull(1.0)
            offer, made = source.offer, []

            def counted(begun, room, source=source, offer=offer, made=made, upto=offers_before):
                made.append(begun)
                if len(made) > upto:
                    source.release()
                return offer(begun, room)

            source.offer = counted
            status = Streamer(lambda s=source: s).execute()
            self.assertEqual((status.phase, status.message), ("done", ""), offers_before)
            self.assertEqual(status.results[1].planned_steps, status.results[1].board_steps)

    def test_an_answer_that_no_board_gives_ends_it(self):
        """To the question where it is, or to spans that replace others: a fault that quotes it, and no endless state."""
        for header, answer in (("MOTion:STATe?", "MOVE," + "7" * 400), ("MOTion:REPLace?", "perhaps")):
            asked: list[int] = []

            def odd(*what, header=header, answer=answer, asked=asked):
                asked.append(1)
                return answer if len(asked) > 3 else COMMANDS[header.upper()](*what)

            source = ManualMove(load_example(), 1, standing_at({"Lift": Decimal(100)}))
            source.pull(1.0)
            odds = dict.fromkeys(spellings(header), odd)
            with mock.patch("kivant.board.standin.dialogue.COMMANDS", {**COMMANDS, **odds}):
                status = Streamer(lambda s=source: s).execute()
            self.assertEqual(status.phase, "failed")
            self.assertRegex(status.message, f"answered “{answer.removeprefix('MOVE,')[:30]}.* not a valid answer")

    def test_a_stop_brakes_and_a_second_cuts_the_power(self):
        status = self.pull(1, 1.0, lambda status: status.elapsed_s > 0.3, stops=1)
        self.assertGreater(status.results[1].board_steps, 20500)
        self.assertTrue(status.power)
        status = self.pull(1, 1.0, lambda status: status.elapsed_s > 0.3, stops=2)
        self.assertEqual((status.phase, status.power), ("stopped", False))
