"""When a board has to begin to brake: backwards in closed form, against a forward integration in small steps."""

import math
import unittest
from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from kivant.board.protocol.record import SHARE_ONE, AxisSpan, Span
from kivant.board.protocol.spans import quadratic
from kivant.board.standin.axis_play import HALF_WAY
from kivant.board.standin.braking import brake_s, stopping_s
from kivant.board.standin.player import Player

HZ = 1000.0
brakes = st.sampled_from((20_000, 50_000, 200_000, 700_000))
some_spans = st.lists(
    st.builds(
        lambda ticks, begin, end, share: Span(ticks, (AxisSpan(0),), (begin, end), round(share * SHARE_ONE)),
        st.integers(1, 250), brakes, brakes, st.sampled_from((-2.0, -0.5, 0.0, 0.3, 0.9, 1.7)),
    ),
    min_size=1, max_size=8,
)  # fmt: skip


def left_at_end(spans: list[Span], begin_s: float) -> float:
    """Return the rate at the end of spans if braking begins so late in them, by Euler's steps of a tenth of a tick."""
    squared, at = 1.0, 0.0
    for span in spans:
        for tenth in range(10 * span.ticks):
            if at >= begin_s and squared > 0.0:
                needs_s = brake_s(span, tenth / 10)
                left = max(1.0 - span.share / SHARE_ONE * squared, 0.0)
                squared -= 2 * left * 0.1 / HZ / needs_s if needs_s else squared * (left > 0.0)
            at += 0.1 / HZ
    return max(squared, 0.0) ** 0.5


class Begin(unittest.TestCase):
    @given(some_spans)
    def test_what_begins_in_time_stands_at_the_end_and_what_begins_later_does_not(self, spans):
        whole = sum(span.ticks for span in spans) / HZ
        begin = whole - stopping_s(reversed(spans), HZ)
        if begin > 0.002:
            self.assertLess(left_at_end(spans, begin - 0.002), 0.12)
        if begin + 0.03 < whole and begin > 0.0:
            self.assertGreaterEqual(left_at_end(spans, begin + 0.03), left_at_end(spans, begin - 0.002))

    def test_closed_forms(self):
        """At a brake time b that stays: b/2 where the speed is even, b ln 2 where half is used, and half of that."""
        for share, expected_s in ((0.0, 0.2), (0.5, 0.4 * math.log(2)), (-1.0, 0.2 * math.log(2))):
            span = Span(1000, (AxisSpan(0),), (400_000, 400_000), round(share * SHARE_ONE))
            self.assertAlmostEqual(stopping_s([span], HZ), expected_s, places=9)

    def test_a_plan_that_brakes_to_standstill_itself_needs_no_braking(self):
        span = Span(1000, (AxisSpan(0),), (1_000_000, 0), SHARE_ONE)
        self.assertAlmostEqual(stopping_s([span], HZ), 0.0, places=9)

    def test_spans_that_are_not_true_keep_nothing_moving_for_ever(self):
        """Each says that it brakes with all there is; where no axis gets slower, that is not believed for long."""
        places = [HALF_WAY + k * (250 << 24) for k in range(501)]
        for change, moving_s, stands_s in ((-(1 << 46), 119.0, 120.1), (0, 0.41, 0.43), (1 << 46, 0.41, 0.43)):
            own = (quadratic(250, begin, end, change * 2.0**-62) for begin, end in pairwise(places))
            spans = [Span(250, (one,), (200_000, 200_000), SHARE_ONE) for one in own]
            player = Player(HZ, 1000)
            player.reset(1)
            player.append(spans)
            player.complete = True
            player.start()
            player.brake()
            player.advance(moving_s)
            self.assertTrue(player.moving, change)
            player.advance(stands_s - moving_s)
            self.assertEqual(player.state, "STOP", change)
