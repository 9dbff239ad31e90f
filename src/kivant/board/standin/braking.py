"""Braking along the path: how fast the playing of spans may slow down, and when it has to begin.

At the rate r an axis runs at r times its speed in the plan, and slowing down costs it ``r² a + v dr/dt`` of its
deceleration. A span says for the axis nearest to its limit how long it needs to standstill, ``brake``, and which share
of its deceleration the plan uses, so that ``dr/dt = -(1 - share r²) / brake`` is as fast as may be: where the plan
itself brakes with all there is, it is followed to its end. Over the time of the plan this is linear in ``q = r²``:
``dq/dt = -2 (1 - share q) / brake``.
"""

from __future__ import annotations

import math
from collections.abc import Iterable

from kivant.board.protocol.record import SHARE_ONE, Span

MARGIN_S = 0.02
"""What a board wants to have beside the time it needs to brake, before it brakes for lack of spans."""
MOST_BRAKE_S = 60
"""Longest brake time of a span that a board takes, s: nobody is to wait longer for a stop."""

_HALVINGS = 40
_GRAIN_S = 0.0005  # longest step of the braking integral, and
_LEAST_GRAIN_S = 0.000001  # its least
_MOST_FALL = 0.05  # of the rate in one of these steps


def brake_s(span: Span, ticks: float) -> float:
    """Return how long the axis nearest to its limit needs to standstill at a place of a span, s."""
    begin, end = span.brake_us
    return (begin + (end - begin) * min(ticks / span.ticks, 1.0)) * 1e-6


def left(span: Span, rate: float) -> float:
    """Return which share of its deceleration that axis has left for slowing down at a rate; more where it speeds up."""
    return max(1.0 - span.share / SHARE_ONE * rate * rate, 0.0)


def slope(span: Span, ticks: float, rate: float) -> float:
    """Return how fast the rate may fall at a place of a span, 1/s."""
    needs_s = brake_s(span, ticks)
    return left(span, rate) / needs_s if needs_s > 0.0 else math.inf


def grain_s(span: Span, ticks: float, rate: float, tick_hz: float) -> float:
    """Return how long the rate may be taken to fall evenly from a place of a span on, s."""
    left_s = (span.ticks - ticks) / tick_hz / rate  # not far beyond the end of the span, where the rule changes
    fall_s = _MOST_FALL / max(slope(span, ticks, rate), 1.0)
    return max(min(left_s, fall_s, _GRAIN_S), _LEAST_GRAIN_S)


def slows(span: Span) -> bool:
    """Return whether any axis gets slower in a span."""
    return any((own.speed > 0) != (own.change > 0) for own in span.axes if own.speed and own.change)


def stopping_s(ahead: Iterable[Span], tick_hz: float) -> float:
    """Return how long before the end of spans braking has to begin, s of the plan; they are given from the last on.

    From standstill at their end the rate is followed backwards to where it is 1: what begins to brake there, or
    sooner, stands within them.
    """
    squared, passed_s = 0.0, 0.0  # the rate
    for span in ahead:
        length_s = span.ticks / tick_hz
        begins = _earlier(squared, span, length_s, length_s)
        if begins >= 1.0:
            low, high = 0.0, length_s
            for _ in range(_HALVINGS):
                middle = (low + high) / 2
                low, high = (low, middle) if _earlier(squared, span, middle, length_s) >= 1.0 else (middle, high)
            return passed_s + high
        squared, passed_s = begins, passed_s + length_s
    return passed_s


def _earlier(squared: float, span: Span, before_s: float, length_s: float) -> float:
    """Return the square of the rate so long before the end of a span, if it is `squared` there."""
    share = span.share / SHARE_ONE
    if share * squared >= 1.0:
        return squared  # the plan brakes with all there is: it is followed
    begin, end = brake_s(span, span.ticks * (1.0 - before_s / length_s)), brake_s(span, span.ticks)
    if begin > 0.0 and end > 0.0:
        mean_s = begin if math.isclose(begin, end) else (begin - end) / math.log(begin / end)
        times = 2 * before_s / mean_s
    else:
        times = math.inf
    if not share or abs(share) * times < 1e-9:
        return squared + times
    return (1.0 - (1.0 - share * squared) * math.exp(min(-share * times, 500.0))) / share


class Slowing:
    """How long a board has been braking, held against what the spans say: false ones must not keep it moving.

    All braking takes as long as the longest brake time on its way, if each moment counts as much as was left for it.
    That nothing is left is believed where an axis really gets slower.
    """

    def __init__(self) -> None:
        self._counted_s = self._longest_s = self._passed_s = 0.0

    def count(self, span: Span, ticks: float, rate: float, seconds: float) -> None:
        """Count some time at a place of a span."""
        self._passed_s += seconds
        self._counted_s += seconds * (left(span, rate) if slows(span) else 1.0)
        self._longest_s = max(self._longest_s, brake_s(span, ticks))

    @property
    def is_false(self) -> bool:
        """Whether it would stand by now if the spans were true."""
        return self._counted_s > 2 * self._longest_s + MARGIN_S or self._passed_s > 2 * MOST_BRAKE_S
