"""One move of one axis, cut into segments that can each be solved for the instant of a step.

Step k of a movement happens when the ideal position crosses k - 1/2 steps.
"""

from __future__ import annotations

import math
from array import array
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from kivant.core.motion.ramp import Ramp
from kivant.core.motion.segment import STANDSTILL, Segment, SegmentColumns, SegmentRow, instant_on
from kivant.core.travel.conversion import nearest_quotient


@dataclass(frozen=True, slots=True)
class AxisMove:
    """One axis's share of one move; distances in steps. `axis_move` makes one from exact positions.

    Parameters
    ----------
    begin_s : float, s
        When the move begins.
    ramp : Ramp
        The path from 0 to 1 that all axes of the move share.
    start, end : float
        Commanded positions, counted from position 0 of the axis.
    sign : int
        +1 or -1: the direction of travel.
    span : float
        Distance between start and end.
    count : int
        How many steps it takes.
    lead, rest : float
        Step j (from 1) is crossed at the distance j - lead; the last one lies `rest` before the end.
    """

    begin_s: float
    ramp: Ramp
    start: float
    end: float
    sign: int
    span: float
    count: int
    lead: float
    rest: float

    def segments(self, first: int = 0) -> Iterator[SegmentRow]:
        """Yield the segments in time order; `first` is the index of the move's first step."""
        sign, count, span, lead_steps = self.sign, self.count, self.span, self.lead
        rest, position, target = self.rest, self.start, self.end
        taken, last = 0, len(self.ramp.coefficients) - 1
        for i, (c0, _, c2, c3) in enumerate(self.ramp.coefficients):
            begin, end = self.ramp.breaks_s[i], self.ramp.breaks_s[i + 1]
            far = span if i == last else span * self.ramp.coefficients[i + 1][0]
            upto = count if i == last else min(max(math.floor(far + lead_steps), taken), count)
            slow, fast = self.ramp.speeds[i] * span, self.ramp.speeds[i + 1] * span
            if slow > fast:
                slow, fast = fast, slow
                anchor, forward = end, -1
                rate = -2 * c2 * span if c3 == 0.0 else -(2 * c2 + 6 * c3 * (end - begin)) * span
                place = target if i == last else position + sign * far
                base, near = upto, rest if i == last else far - (upto - lead_steps)
            else:
                anchor, forward, place = begin, 1, position + sign * c0 * span
                rate = 2 * c2 * span
                base, near = taken + 1, taken + 1 - lead_steps - c0 * span
            yield Segment(
                self.begin_s + begin,
                self.begin_s + end,
                self.begin_s + anchor,
                place,
                forward,
                sign,
                max(slow, STANDSTILL),
                fast,
                rate,
                6 * c3 * span,
                first + taken,
                first + base - 1,
                max(near, 0.0),
            )
            taken = upto

    def instant(self, step: int) -> float:
        """Return when the move takes its step number `step`, counted from 0 to count - 1, in s."""
        return instant_on([segment for segment in self.segments() if segment.first <= step][-1], step)


def axis_move(begin_s: float, ramp: Ramp, start: Fraction, end: Fraction) -> AxisMove:
    """Return the move from the exact position `start` to `end`, both in steps."""
    # Whole numbers over one denominator: fractions would reduce themselves at every operation, and a quotient of
    # whole numbers is rounded once.
    whole = math.lcm(start.denominator, end.denominator)
    from_, to = (p.numerator * (whole // p.denominator) for p in (start, end))
    sign = 1 if to >= from_ else -1
    nearest, distance = nearest_quotient(from_, whole), abs(to - from_)
    count = abs(nearest_quotient(to, whole) - nearest)
    lead = whole + 2 * sign * (from_ - nearest * whole)  # in halves
    rest = 2 * distance + lead - 2 * count * whole
    return AxisMove(
        begin_s,
        ramp,
        from_ / whole,
        to / whole,
        sign,
        distance / whole,
        count,
        lead / (2 * whole),
        rest / (2 * whole),
    )


class AxisMoves:
    """The moves of one axis one behind the other, kept as the numbers of their segments.

    A routine of thousands of moves is a few arrays then, and not a million objects that somebody waits for when
    they are collected.
    """

    def __init__(self, moves: Iterable[AxisMove] = ()) -> None:
        self.count = 0
        self._numbers = array("d")
        for move in moves:
            self.add(move)

    def add(self, move: AxisMove) -> None:
        """Put a move behind those there are."""
        for segment in move.segments(self.count):
            self._numbers.extend(segment)
        self.count += move.count

    def segments(self) -> SegmentColumns:
        """Return the segments of all moves in time order, as columns."""
        columns = np.frombuffer(self._numbers, np.float64).reshape(-1, len(Segment._fields)).T
        wholes = {"forward", "sign", "first", "base"}
        return SegmentColumns._make(
            column.astype(np.int64 if name in wholes else np.float64)
            for name, column in zip(Segment._fields, columns, strict=True)
        )
