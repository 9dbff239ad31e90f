"""Step trains: when an axis takes each step of its moves, for trains of any length."""

from __future__ import annotations

import bisect
from fractions import Fraction
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from kivant.core.motion.instants import instants_on
from kivant.core.motion.segment import (
    STANDSTILL,
    Reals,
    SegmentColumns,
    SegmentRow,
    Wholes,
    instant_on,
    position_on,
    speed_on,
)
from kivant.core.travel.conversion import nearest_step

BYTES_PER_STEP = 9
"""Memory of one step of a train: an instant (float64) and a sign (int8)."""

_MOST_ROWS = 64  # segments kept as rows


def _pick(p: SegmentColumns, which: Wholes) -> SegmentColumns:
    return SegmentColumns._make(column[which] for column in p)


class StepTrain:
    """All steps of one axis over a plan: moves in time order, each a whole number of steps.

    The moves are flattened into one table of segments, so that steps are solved in bulk whatever the
    number of moves. Nothing is stored per step.
    """

    def __init__(
        self, start: Fraction, end: Fraction, segments: SegmentColumns, count: int, offsets: tuple[int, int] = (0, 0)
    ) -> None:
        """Take the exact positions before and after all moves, in steps, their segments and the number of steps.

        `offsets` are what the motor stands beside those positions, in whole steps.
        """
        self.count = count
        self.start, self.end = (start + offsets[0], end + offsets[1]) if any(offsets) else (start, end)
        # A tie is rounded away from position 0 of the tool, wherever the motor is.
        self.start_steps = nearest_step(start) + offsets[0]
        self.end_steps = nearest_step(end) + offsets[1]
        # As columns for work in bulk, and the latest few as rows for one step, where an array is slower.
        self._segments = segments
        self._rows: dict[int, SegmentRow] = {}
        self._firsts = memoryview(np.ascontiguousarray(segments.first).data)

    @cached_property
    def _counts(self) -> Wholes:
        """How many steps each segment has."""
        return np.diff(self._segments.first, append=self.count) if len(self._firsts) else np.zeros(0, np.int64)

    @cached_property
    def _positions(self) -> Wholes:
        """The positions before, between and after the segments, in whole steps."""
        return np.cumsum(np.concatenate(([self.start_steps], self._segments.sign * self._counts)))

    def _row(self, index: int) -> SegmentRow:
        row = self._rows.get(index)
        if row is None:
            if len(self._rows) >= _MOST_ROWS:
                self._rows.clear()
            row = self._rows[index] = SegmentRow._make(column.item(index) for column in self._segments)
        return row

    def _of_step(self, step: int) -> SegmentRow:
        return self._row(bisect.bisect_right(self._firsts, step) - 1)

    def signs(self) -> NDArray[np.int8]:
        """Return the direction of every step, +1 or -1, shape (count,)."""
        return np.repeat(self._segments.sign.astype(np.int8), self._counts)

    def instants(self) -> Reals:
        """Return when every step happens, ascending, in s, shape (count,)."""
        return instants_on(self._segments, self._counts)

    def instant(self, step: int) -> float:
        """Return when step number `step` happens, counted from 0, in s."""
        return instant_on(self._of_step(step), step)

    def sign_of(self, step: int) -> int:
        """Return the direction of step number `step`, counted from 0: +1 or -1."""
        return self._of_step(step).sign

    def ticks(self, tick_hz: int) -> Wholes:
        """Return the instants as whole ticks: each rounded for itself, so that no error grows."""
        instants = self.instants()
        np.multiply(instants, tick_hz, out=instants)
        np.rint(instants, out=instants)
        return instants.astype(np.int64)

    def _at(self, times: Reals) -> tuple[NDArray[np.bool_], SegmentColumns]:
        index = np.searchsorted(self._segments.begin_s, times, side="right") - 1
        return index >= 0, _pick(self._segments, np.maximum(index, 0))

    def ideal(self, times_s: Reals | float) -> Reals:
        """Return the exact commanded position at `times_s`, in steps, same shape."""
        times = np.asarray(times_s, dtype=np.float64)
        if not len(self._firsts):
            return np.full(times.shape, float(self.start))
        begun, p = self._at(times)
        away = np.abs(np.clip(times, p.begin_s, p.end_s) - p.anchor_s)
        return np.where(begun, position_on(p, away), float(self.start))

    def _row_at(self, time_s: float) -> SegmentRow | None:
        index = int(np.searchsorted(self._segments.begin_s, time_s, side="right")) - 1
        return self._row(index) if index >= 0 else None

    def ideal_at(self, time_s: float) -> float:
        """Return what `ideal` returns for one time, in a fraction of its time."""
        p = self._row_at(time_s)
        if p is None:
            return float(self.start)
        away = abs(min(max(time_s, p.begin_s), p.end_s) - p.anchor_s)
        return float(position_on(p, away))

    def steps_at(self, times_s: Reals) -> Wholes:
        """Return the position in whole steps at `times_s`, same shape; exact wherever a move ends."""
        if not len(self._firsts):
            return np.full(times_s.shape, self._positions[0])
        index = np.searchsorted(self._segments.begin_s, times_s, side="right") - 1
        inside = np.maximum(index, 0)
        ideal, sign = self.ideal(times_s), self._segments.sign[inside]
        crossed = np.where(sign > 0, np.floor(ideal + 0.5), np.ceil(ideal - 0.5)).astype(np.int64)
        begin, end = self._positions[inside], self._positions[index + 1]
        # A rounded position may lie this side of a step that is the last of its segment.
        within = np.where(times_s < self._segments.end_s[inside], crossed, end)
        return np.where(index < 0, begin, np.clip(within, np.minimum(begin, end), np.maximum(begin, end)))

    def speed(self, times_s: Reals | float) -> Reals:
        """Return the commanded speed at `times_s` with its sign, in steps/s, same shape; 0 at rest."""
        times = np.asarray(times_s, dtype=np.float64)
        if not len(self._firsts):
            return np.zeros(times.shape)
        begun, p = self._at(times)
        speed = np.minimum(speed_on(p, np.abs(times - p.anchor_s)), p.top)
        speed = np.where(speed > STANDSTILL, speed, 0.0)
        return np.where(begun & (times < p.end_s), p.sign * speed, 0.0)

    def speed_at(self, time_s: float) -> float:
        """Return what `speed` returns for one time, in a fraction of its time."""
        p = self._row_at(time_s)
        if p is None or time_s >= p.end_s:
            return 0.0
        speed = min(speed_on(p, abs(time_s - p.anchor_s)), p.top)
        return float(p.sign * speed) if speed > STANDSTILL else 0.0

    def course(self, points: int = 2, span: tuple[float, float] = (-np.inf, np.inf)) -> tuple[Reals, Reals, Reals]:
        """Return the course of every segment at `points` even times, both ends included, shape (segments, points).

        Of a `span` of time, s, those that lie in it or reach into it.

        These are the times, s, the speeds with their signs, steps/s, and the accelerations along the motion, steps/s².
        """
        first = max(int(np.searchsorted(self._segments.begin_s, span[0], "right")) - 1, 0)
        last = int(np.searchsorted(self._segments.begin_s, span[1], "left"))
        p = SegmentColumns._make(np.asarray(column)[first:last, None] for column in self._segments)
        times = p.begin_s + (p.end_s - p.begin_s) * np.linspace(0.0, 1.0, points)
        times[:, -1] = self._segments.end_s[first:last]
        away = np.abs(times - p.anchor_s)
        speeds = np.where(away > 0, np.where(away < p.end_s - p.begin_s, speed_on(p, away), p.top), p.speed)
        speeds = np.where(speeds > STANDSTILL, np.minimum(speeds, p.top), 0.0)
        return times, p.sign * speeds, p.forward * (p.acceleration + p.jerk * away)

    def corners(self, bends: int = 1, span: tuple[float, float] = (-np.inf, np.inf)) -> tuple[Reals, Reals]:
        """Return the corners of the speed curve: both ends of every segment, s, and the speed there, steps/s.

        `span` as for `course`.

        Where the acceleration changes within segments, the curve between is told by so many straight pieces.
        """
        times, speeds, _rates = self.course(1 + (bends if np.any(self._segments.jerk) else 1), span)
        return np.repeat(times, 2, axis=1)[:, 1:-1].ravel(), np.repeat(speeds, 2, axis=1)[:, 1:-1].ravel()

    def taken(self, time_s: float) -> int:
        """Return how many steps have happened up to and including `time_s`."""
        index = int(np.searchsorted(self._segments.begin_s, time_s, side="right"))
        # Halving over the instants themselves, one segment to either side, leaves no rounding of positions in.
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
            return int(self._positions[0])
        index = bisect.bisect_right(self._firsts, taken - 1) - 1
        segment = self._row(index)
        return int(self._positions[index]) + segment.sign * (taken - segment.first)
