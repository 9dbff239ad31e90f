"""Strokes: one axis's share of one move, as pieces that can each be solved for a step's instant.

Step k of a movement happens when the ideal position crosses k - 1/2 steps. Every piece of a ramp is solved
from the end at which the axis is slower, by t = 2 x / (v + sqrt(v² + 2 a x)): that form has no difference of
nearly equal numbers in it, so the last step of a long move is as exact as the first.
"""

from __future__ import annotations

import math
from array import array
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from typing import Generic, NamedTuple, TypeVar

import numpy as np
from numpy.typing import NDArray

from kivant.core.ramp import Ramp
from kivant.core.travel import nearest_quotient

STANDSTILL = 1e-150
"""Stands for speed 0: its square still is a number, so 0/0 cannot arise."""

Reals = NDArray[np.float64]
Wholes = NDArray[np.int64]
Real = TypeVar("Real", float, Reals)
Whole = TypeVar("Whole", int, Wholes)


class Stretch(NamedTuple, Generic[Real, Whole]):
    """One piece of one stroke (or columns of them), anchored where the axis is slower; in steps and s."""

    begin_s: Real
    end_s: Real
    anchor_s: Real
    anchor_steps: Real
    forward: Whole  # +1: the anchor is the beginning; -1: the end, and time runs backwards from it
    sign: Whole
    speed: Real  # at the anchor
    top: Real  # at the other end
    acceleration: Real
    first: Whole  # index of the first step of the piece
    base: Whole  # index of the step next to the anchor
    near: Real  # distance of that step from the anchor


Piece = Stretch[float, int]
Pieces = Stretch[Reals, Wholes]


def instant_on(piece: Piece, step: int) -> float:
    """Return when step number `step` happens on a piece, in s."""
    x = (step - piece.base) * piece.forward + piece.near
    root = math.sqrt(piece.speed**2 + 2 * piece.acceleration * x)
    return piece.anchor_s + piece.forward * 2 * x / (piece.speed + root)


@dataclass(frozen=True, slots=True)
class Stroke:
    """One axis's share of one move; distances in steps. `stroke` makes one from exact positions.

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

    def stretches(self, first: int = 0) -> Iterator[Piece]:
        """Yield the pieces in time order; `first` is the index of the stroke's first step."""
        sign, count, span, lead_steps = self.sign, self.count, self.span, self.lead
        rest, position, target = self.rest, self.start, self.end
        taken, last = 0, len(self.ramp.coefficients) - 1
        for i, (c0, _, c2) in enumerate(self.ramp.coefficients):
            begin, end = self.ramp.breaks_s[i], self.ramp.breaks_s[i + 1]
            far = span if i == last else span * self.ramp.coefficients[i + 1][0]
            upto = count if i == last else min(max(math.floor(far + lead_steps), taken), count)
            rate = 2 * abs(c2) * span
            slow, fast = sorted((self.ramp.speeds[i] * span, self.ramp.speeds[i + 1] * span))
            if c2 < 0:
                anchor, forward = end, -1
                place = target if i == last else position + sign * far
                base, near = upto, rest if i == last else far - (upto - lead_steps)
            else:
                anchor, forward, place = begin, 1, position + sign * c0 * span
                base, near = taken + 1, taken + 1 - lead_steps - c0 * span
            yield Stretch(
                self.begin_s + begin,
                self.begin_s + end,
                self.begin_s + anchor,
                place,
                forward,
                sign,
                max(slow, STANDSTILL),
                fast,
                rate,
                first + taken,
                first + base - 1,
                max(near, 0.0),
            )
            taken = upto

    def instant(self, step: int) -> float:
        """Return when the stroke takes its step number `step`, counted from 0 to count - 1, in s."""
        return instant_on([piece for piece in self.stretches() if piece.first <= step][-1], step)


def stroke(begin_s: float, ramp: Ramp, start: Fraction, end: Fraction) -> Stroke:
    """Return the stroke from the exact position `start` to `end`, both in steps."""
    # Whole numbers over one denominator: fractions would reduce themselves at every operation, and a quotient of
    # whole numbers is rounded once.
    whole = math.lcm(start.denominator, end.denominator)
    from_, to = (p.numerator * (whole // p.denominator) for p in (start, end))
    sign = 1 if to >= from_ else -1
    nearest, distance = nearest_quotient(from_, whole), abs(to - from_)
    count = abs(nearest_quotient(to, whole) - nearest)
    lead = whole + 2 * sign * (from_ - nearest * whole)  # in halves
    rest = 2 * distance + lead - 2 * count * whole
    return Stroke(
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


class Strokes:
    """The strokes of one axis one behind the other, kept as the numbers of their pieces.

    A routine of thousands of moves is a few arrays then, and not a million objects that somebody waits for when
    they are collected.
    """

    def __init__(self, strokes: Iterable[Stroke] = ()) -> None:
        self.count = 0
        self._numbers = array("d")
        for stroke in strokes:
            self.add(stroke)

    def add(self, stroke: Stroke) -> None:
        """Put a stroke behind those there are."""
        for piece in stroke.stretches(self.count):
            self._numbers.extend(piece)
        self.count += stroke.count

    def pieces(self) -> Pieces:
        """Return the pieces of all strokes in time order, as columns."""
        columns = np.frombuffer(self._numbers, np.float64).reshape(-1, len(Stretch._fields)).T
        wholes = {"forward", "sign", "first", "base"}
        return Pieces._make(
            column.astype(np.int64 if name in wholes else np.float64)
            for name, column in zip(Stretch._fields, columns, strict=True)
        )
