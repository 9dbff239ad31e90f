"""Step instants: when an axis takes each step of its moves, for trains of any length.

Step k of a movement happens when the ideal position crosses k - 1/2 steps. Every piece of a ramp is solved
from the end at which the axis is slower, by t = 2 x / (v + sqrt(v² + 2 a x)): that form has no difference of
nearly equal numbers in it, so the last step of a long move is as exact as the first.
"""

from __future__ import annotations

import bisect
import math
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from functools import cache
from typing import Generic, NamedTuple, TypeVar

import numpy as np
from numpy.typing import NDArray

from kivant.core.ramp import Ramp
from kivant.core.travel import nearest_step

BYTES_PER_STEP = 9
"""Memory of one step of a train: an instant (float64) and a sign (int8)."""

_CHUNK = 8_192  # steps solved at a time: the work arrays stay in the processor's cache
_STANDSTILL = 1e-150  # stands for speed 0: its square still is a number, so 0/0 cannot arise


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


def _instant_on(piece: Piece, step: int) -> float:
    x = (step - piece.base) * piece.forward + piece.near
    root = math.sqrt(piece.speed**2 + 2 * piece.acceleration * x)
    return piece.anchor_s + piece.forward * 2 * x / (piece.speed + root)


def _columns(table: Sequence[Piece]) -> Pieces:
    def reals(values: Iterable[float]) -> Reals:
        return np.fromiter(values, np.float64, len(table))

    def wholes(values: Iterable[int]) -> Wholes:
        return np.fromiter(values, np.int64, len(table))

    return Stretch(
        reals(p.begin_s for p in table),
        reals(p.end_s for p in table),
        reals(p.anchor_s for p in table),
        reals(p.anchor_steps for p in table),
        wholes(p.forward for p in table),
        wholes(p.sign for p in table),
        reals(p.speed for p in table),
        reals(p.top for p in table),
        reals(p.acceleration for p in table),
        wholes(p.first for p in table),
        wholes(p.base for p in table),
        reals(p.near for p in table),
    )


def _pick(p: Pieces, which: Wholes) -> Pieces:
    return Stretch(
        p.begin_s[which],
        p.end_s[which],
        p.anchor_s[which],
        p.anchor_steps[which],
        p.forward[which],
        p.sign[which],
        p.speed[which],
        p.top[which],
        p.acceleration[which],
        p.first[which],
        p.base[which],
        p.near[which],
    )


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
                max(slow, _STANDSTILL),
                fast,
                rate,
                first + taken,
                first + base - 1,
                max(near, 0.0),
            )
            taken = upto

    def instant(self, step: int) -> float:
        """Return when the stroke takes its step number `step`, counted from 0 to count - 1, in s."""
        return _instant_on([piece for piece in self.stretches() if piece.first <= step][-1], step)


def stroke(begin_s: float, ramp: Ramp, start: Fraction, end: Fraction) -> Stroke:
    """Return the stroke from the exact position `start` to `end`, both in steps."""
    sign = 1 if end >= start else -1
    nearest, distance = nearest_step(start), abs(end - start)
    count = abs(nearest_step(end) - nearest)
    lead = Fraction(1, 2) + sign * (start - nearest)
    rest = float(distance + lead - count)
    return Stroke(begin_s, ramp, float(start), float(end), sign, float(distance), count, float(lead), rest)


class Train:
    """All steps of one axis over a plan: strokes in time order, each a whole number of steps.

    The strokes are flattened into one table of pieces, so that steps are solved in bulk whatever the
    number of moves. Nothing is stored per step.
    """

    def __init__(self, start: Fraction, end: Fraction, strokes: Sequence[Stroke]) -> None:
        """Take the exact positions before and after all strokes, in steps, and the strokes in time order."""
        table: list[Piece] = []
        count = 0
        for stroke in strokes:
            table.extend(stroke.stretches(count))
            count += stroke.count
        self.count = count
        self.start = start
        self.end = end
        # As columns for work in bulk, and as rows for one step, where an array is slower than a list.
        self._pieces = _columns(table)
        self._table = table
        self._firsts = [piece.first for piece in table]
        per_piece = np.diff(np.append(self._pieces.first, count)) if table else np.zeros(0, np.int64)
        self._counts = per_piece
        signed = np.concatenate(([0], np.cumsum(self._pieces.sign * per_piece)))
        self._positions: list[int] = (nearest_step(start) + signed).tolist()

    def signs(self) -> NDArray[np.int8]:
        """Return the direction of every step, +1 or -1, shape (count,)."""
        return np.repeat(self._pieces.sign.astype(np.int8), self._counts)

    def instants(self) -> Reals:
        """Return when every step happens, ascending, in s, shape (count,)."""
        out = np.empty(self.count)
        for low in range(0, self.count, _CHUNK):
            high = min(low + _CHUNK, self.count)
            self._solve(low, high, out[low:high])
        return out

    def instant(self, step: int) -> float:
        """Return when step number `step` happens, counted from 0, in s."""
        return _instant_on(self._table[bisect.bisect_right(self._firsts, step) - 1], step)

    def sign_of(self, step: int) -> int:
        """Return the direction of step number `step`, counted from 0: +1 or -1."""
        return self._table[bisect.bisect_right(self._firsts, step) - 1].sign

    def ticks(self, tick_hz: int) -> Wholes:
        """Return the instants as whole ticks: each rounded for itself, so that no error grows."""
        instants = self.instants()
        np.multiply(instants, tick_hz, out=instants)
        np.rint(instants, out=instants)
        return instants.astype(np.int64)

    def _at(self, times: Reals) -> tuple[NDArray[np.bool_], Pieces]:
        index = np.searchsorted(self._pieces.begin_s, times, side="right") - 1
        return index >= 0, _pick(self._pieces, np.maximum(index, 0))

    def ideal(self, times_s: Reals | float) -> Reals:
        """Return the exact commanded position at `times_s`, in steps, same shape."""
        times = np.asarray(times_s, dtype=np.float64)
        if not self._table:
            return np.full(times.shape, float(self.start))
        begun, p = self._at(times)
        away = np.abs(np.clip(times, p.begin_s, p.end_s) - p.anchor_s)
        position = p.anchor_steps + p.sign * p.forward * away * (p.speed + p.acceleration * away / 2)
        return np.where(begun, position, float(self.start))

    def _row_at(self, time_s: float) -> Piece | None:
        index = bisect.bisect_right(self._table, time_s, key=lambda piece: piece.begin_s) - 1
        return self._table[index] if index >= 0 else None

    def ideal_at(self, time_s: float) -> float:
        """Return what `ideal` returns for one time, in a fraction of its time."""
        p = self._row_at(time_s)
        if p is None:
            return float(self.start)
        away = abs(min(max(time_s, p.begin_s), p.end_s) - p.anchor_s)
        return p.anchor_steps + p.sign * p.forward * away * (p.speed + p.acceleration * away / 2)

    def steps_at(self, times_s: Reals) -> Wholes:
        """Return the position in whole steps at `times_s`, same shape; exact wherever a stroke ends."""
        if not self._table:
            return np.full(times_s.shape, self._positions[0], dtype=np.int64)
        ideal = self.ideal(times_s)
        index = np.searchsorted(self._pieces.begin_s, times_s, side="right") - 1
        sign = self._pieces.sign[np.maximum(index, 0)]
        crossed = np.where(sign > 0, np.floor(ideal + 0.5), np.ceil(ideal - 0.5)).astype(np.int64)
        positions = np.array(self._positions)
        begin, end = positions[np.maximum(index, 0)], positions[index + 1]
        return np.where(index < 0, begin, np.clip(crossed, np.minimum(begin, end), np.maximum(begin, end)))

    def speed(self, times_s: Reals | float) -> Reals:
        """Return the commanded speed at `times_s` with its sign, in steps/s, same shape; 0 at rest."""
        times = np.asarray(times_s, dtype=np.float64)
        if not self._table:
            return np.zeros(times.shape)
        begun, p = self._at(times)
        speed = np.minimum(p.speed + p.acceleration * np.abs(times - p.anchor_s), p.top)
        return np.where(begun & (times < p.end_s), p.sign * speed, 0.0)

    def speed_at(self, time_s: float) -> float:
        """Return what `speed` returns for one time, in a fraction of its time."""
        p = self._row_at(time_s)
        if p is None or time_s >= p.end_s:
            return 0.0
        return p.sign * min(p.speed + p.acceleration * abs(time_s - p.anchor_s), p.top)

    def corners(self) -> tuple[Reals, Reals]:
        """Return the corners of the speed curve: both ends of every piece, s, and the speed there, steps/s."""
        times = np.stack((self._pieces.begin_s, self._pieces.end_s), axis=1)
        p = self._pieces
        ends = np.stack((np.where(p.forward > 0, p.speed, p.top), np.where(p.forward > 0, p.top, p.speed)), axis=1)
        return times.ravel(), (p.sign[:, None] * ends).ravel()

    @property
    def peak_acceleration(self) -> float:
        """The greatest acceleration or deceleration, in steps/s²."""
        return float(np.max(self._pieces.acceleration, initial=0.0))

    def taken(self, time_s: float) -> int:
        """Return how many steps have happened up to and including `time_s`."""
        index = bisect.bisect_right(self._table, time_s, key=lambda piece: piece.begin_s)
        # Halving over the instants themselves, one piece to either side, leaves no rounding of positions in.
        low = self._firsts[index - 2] if index >= 2 else 0
        high = self._firsts[index + 1] if index + 1 < len(self._firsts) else self.count
        while low < high:
            middle = (low + high) // 2
            if self.instant(middle) <= time_s:
                low = middle + 1
            else:
                high = middle
        return low

    def position_after(self, taken: int) -> int:
        """Return the position in whole steps after the first `taken` steps."""
        if not taken:
            return self._positions[0]
        index = bisect.bisect_right(self._firsts, taken - 1) - 1
        piece = self._table[index]
        return self._positions[index] + piece.sign * (taken - piece.first)

    def _solve(self, low: int, high: int, out: Reals) -> None:
        begin, end = (bisect.bisect_right(self._firsts, k) - 1 for k in (low, high - 1))
        counted = _counting()[: high - low]
        if begin == end:
            _solve_on(self._table[begin], low, counted, out)
            return
        edges = np.clip(np.append(self._pieces.first[begin : end + 1], high), low, high)
        p = _pick(self._pieces, np.repeat(np.arange(begin, end + 1), np.diff(edges)))
        x = ((counted + low) - p.base) * p.forward + p.near
        out[:] = p.anchor_s + p.forward * 2 * x / (p.speed + np.sqrt(p.speed**2 + 2 * p.acceleration * x))


@cache
def _counting() -> Reals:
    return np.arange(_CHUNK, dtype=np.float64)


def _solve_on(p: Piece, low: int, counted: Reals, out: Reals) -> None:
    """Solve steps on one piece; the inner loop of a plan, hence in place and with as few passes as can be.

    With x = forward * counted + offset, the time from the anchor is x/v without acceleration, sqrt(2x/a) from
    standstill, and 2x / (v + sqrt(v² + 2ax)) otherwise.
    """
    f, a, v = p.forward, p.acceleration, p.speed
    offset = (low - p.base) * f + p.near
    if a == 0.0:
        np.multiply(counted, 1.0 / v, out=out)
        out += p.anchor_s + offset / v
        return
    from_rest = v == _STANDSTILL
    scale = 2.0 / a if from_rest else 2.0 * a
    root = np.multiply(counted, f * scale, out=out if from_rest else None)
    root += offset * scale if from_rest else v * v + offset * scale
    np.maximum(root, 0.0, out=root)  # an offset of 0 may come out just below it
    np.sqrt(root, out=root)
    if from_rest:
        if f < 0:
            np.subtract(p.anchor_s, root, out=out)
        else:
            out += p.anchor_s
        return
    root += v
    np.multiply(counted, 2.0, out=out)
    out += 2.0 * f * offset
    out /= root
    out += p.anchor_s
