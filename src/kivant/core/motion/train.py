"""Step trains: when an axis takes each step of its moves, for trains of any length."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from kivant.core.kept import kept
from kivant.core.motion.exact import Exact
from kivant.core.motion.instants import instants_on
from kivant.core.motion.segment import (
    NOUGHT,
    STANDSTILL,
    Reals,
    Segment,
    SegmentColumns,
    Wholes,
    instant_on,
    instants_of,
    speed_on,
    way_on,
)
from kivant.core.motion.segment_table import SegmentTable
from kivant.core.travel.conversion import nearest_step

BYTES_PER_STEP = 9
"""Memory of one step of a train: an instant (float64) and a sign (int8)."""

_DOUBTFUL = 1e-6  # steps: so near to where a step is crossed its instant is looked at


def _pick(p: SegmentColumns, which: Wholes) -> SegmentColumns:
    return Segment._make(column[which] for column in p)


class Ends:
    """Where a motor stands before and after all moves, in steps: exactly, and in whole steps."""

    def __init__(self, tool: Exact, offsets: Wholes | None = None, which: tuple[int, int] = (0, -1)) -> None:
        """Take positions of the tool, what the motor is beside each, and which of them are the first and the last."""
        self._tool, self._offsets, self._which = tool, offsets, which

    @kept
    def start(self) -> Fraction:
        """The exact position before all moves."""
        return self._tool.at(self._which[0]) + self._beside(0)

    @kept
    def end(self) -> Fraction:
        """The exact position after all moves."""
        return self._tool.at(self._which[1]) + self._beside(1)

    # A tie is rounded away from position 0 of the tool, wherever the motor is.

    @kept
    def start_steps(self) -> int:
        """The position before all moves, in whole steps."""
        return nearest_step(self._tool.at(self._which[0])) + self._beside(0)

    @kept
    def end_steps(self) -> int:
        """The position after all moves, in whole steps."""
        return nearest_step(self._tool.at(self._which[1])) + self._beside(1)

    def _beside(self, end: int) -> int:
        return 0 if self._offsets is None else int(self._offsets[self._which[end]])


class StepTrain:
    """All steps of one axis over a plan: moves in time order, each a whole number of steps.

    The moves are flattened into one table of segments, so that steps are solved in bulk whatever the
    number of moves. Nothing is stored per step.
    """

    def __init__(self, ends: Ends, segments: Callable[[], SegmentColumns], count: Callable[[], int]) -> None:
        """Take where the motor stands before and after all moves, and what returns the segments and their steps.

        Those are asked for when one is first looked at, and when they are to be counted.
        """
        self.ends, self._counted, self._segments = ends, count, SegmentTable(segments)

    @kept
    def count(self) -> int:
        """How many steps there are."""
        return self._counted()

    @kept
    def _counts(self) -> Wholes:
        """How many steps each segment has."""
        return np.diff(self._segments.columns.first, append=self.count)

    @kept
    def _positions(self) -> Wholes:
        """The positions before, between and after the segments, in whole steps."""
        return np.cumsum(np.concatenate(([self.ends.start_steps], self._segments.columns.sign * self._counts)))

    @kept
    def _anchors(self) -> Reals:
        """Where the segments are anchored: half a step before the step next to it, and what that is away."""
        p = self._segments.columns
        anchors: Reals = self._positions[:-1] + p.sign * (p.base - p.first + 0.5 - p.forward * p.near)
        return anchors

    def signs(self) -> NDArray[np.int8]:
        """Return the direction of every step, +1 or -1, shape (count,)."""
        return np.repeat(self._segments.columns.sign.astype(np.int8), self._counts)

    def instants(self) -> Reals:
        """Return when every step happens, ascending, in s, shape (count,)."""
        return instants_on(self._segments.columns, self._counts)

    def instant(self, step: int) -> float:
        """Return when step number `step` happens, counted from 0, in s."""
        return instant_on(self._segments.row(self._segments.of_step(step)), step)

    def sign_of(self, step: int) -> int:
        """Return the direction of step number `step`, counted from 0: +1 or -1."""
        return self._segments.row(self._segments.of_step(step)).sign

    def ideal(self, times_s: Reals | float) -> Reals:
        """Return the exact commanded position at `times_s`, in steps, same shape."""
        times = np.asarray(times_s, dtype=np.float64)
        if not len(self._segments):
            return np.full(times.shape, float(self.ends.start))
        index = self._segments.at(times)
        p = self._segments.pick(np.maximum(index, 0))
        away = np.abs(np.clip(times, p.begin_s, p.end_s) - p.anchor_s)
        return np.where(index >= 0, self._anchors[index] + way_on(p, away), float(self.ends.start))

    def ideal_at(self, time_s: float) -> float:
        """Return what `ideal` returns for one time, in a fraction of its time."""
        index = int(self._segments.at(time_s))
        if index < 0:
            return float(self.ends.start)
        p = self._segments.row(index)
        away = abs(min(max(time_s, p.begin_s), p.end_s) - p.anchor_s)
        return float(self._anchors[index] + way_on(p, away))

    def steps_at(self, times_s: Reals) -> Wholes:
        """Return the position in whole steps at `times_s`, shape (n,): after all steps up to and including them."""
        if not len(self._segments):
            return np.full(times_s.shape, self._positions[0])
        index = self._segments.at(times_s)
        inside = np.maximum(index, 0)
        p, count, begin = self._segments.pick(inside), self._counts[inside], self._positions[inside]
        gone = p.sign * (self.ideal(times_s) - begin) + 0.5
        taken = np.where(times_s < p.end_s, np.clip(np.floor(gone), 0, count), count).astype(np.int64)
        # Where an axis hardly moves, a rounded position does not tell whether a step was taken: its instant does.
        next_to = np.rint(gone)
        doubtful = (np.abs(gone - next_to) < _DOUBTFUL + 4 * np.spacing(np.abs(begin) + gone)) & (next_to >= 1)
        own = (doubtful & (next_to <= count) & (index >= 0)).nonzero()[0]
        steps = next_to[own].astype(np.int64) - 1
        taken[own] = steps + (instants_of(_pick(p, own), p.first[own] + steps) <= times_s[own])
        counted: Wholes = np.where(index < 0, begin, begin + p.sign * taken)
        return counted

    def slow_instants(self, speed: float) -> Reals:
        """Return when those steps happen at which the axis is slower than a speed, steps/s; in no order.

        Among them are those that fall on the anchor of a segment, as at a jump from standstill or to it.
        """
        every = self._segments.columns
        slow = ((every.speed < speed) | (every.near < _DOUBTFUL)).nonzero()[0]
        p, count = self._segments.pick(slow), self._counts[slow]
        rest = np.maximum(speed - p.speed, 0.0)
        with np.errstate(divide="ignore", invalid="ignore"):
            # When the speed is reached, from the anchor on; a jerk that takes the acceleration away may not let it be.
            away = 2 * rest / (p.acceleration + np.sqrt(p.acceleration * p.acceleration + 2 * p.jerk * rest))
        away = np.where(rest > 0.0, np.fmin(away, p.end_s - p.begin_s), 0.0)
        steps = np.clip(np.floor(np.abs(way_on(p, away)) + _DOUBTFUL - p.near) + 1, 0, count).astype(np.int64)
        which = np.arange(len(slow)).repeat(steps)
        number = np.arange(len(which)) - (np.cumsum(steps) - steps)[which]
        own = _pick(p, which)
        return instants_of(own, own.base + own.forward * number)

    def speed(self, times_s: Reals | float) -> Reals:
        """Return the commanded speed at `times_s` with its sign, in steps/s, same shape; 0 at rest."""
        times = np.asarray(times_s, dtype=np.float64)
        if not len(self._segments):
            return np.zeros(times.shape)
        index = self._segments.at(times)
        p = self._segments.pick(np.maximum(index, 0))
        speed = np.minimum(speed_on(p, np.abs(times - p.anchor_s)), p.top)
        speed = np.where(speed > STANDSTILL, speed, 0.0)
        return np.where((index >= 0) & (times < p.end_s), p.sign * speed, 0.0)

    def speed_at(self, time_s: float) -> float:
        """Return what `speed` returns for one time, in a fraction of its time."""
        index = int(self._segments.at(time_s))
        if index < 0 or time_s >= self._segments.row(index).end_s:
            return 0.0
        p = self._segments.row(index)
        speed = min(speed_on(p, abs(time_s - p.anchor_s)), p.top)
        return float(p.sign * speed) if speed > STANDSTILL else 0.0

    def course(self, points: int = 2, span: tuple[float, float] = (-np.inf, np.inf)) -> tuple[Reals, Reals, Reals]:
        """Return the course of every segment at `points` even times, both ends included, shape (segments, points).

        Of a `span` of time, s, those that lie in it or reach into it.

        These are the times, s, the speeds with their signs, steps/s, and the accelerations along the motion, steps/s².
        """
        p = self._segments.within(span)
        whole = p.end_s - p.begin_s
        times = p.begin_s + whole * (np.arange(points) / (points - 1))
        times[:, -1:] = p.end_s
        away = np.abs(times - p.anchor_s)
        speeds = np.where(away > 0, np.where(away < whole, speed_on(p, away), p.top), p.speed)
        shown: Reals = np.where(speeds > STANDSTILL, np.minimum(speeds, p.top), 0.0)
        return times, p.sign * shown, p.forward * (p.acceleration + p.jerk * away)

    def corners(self, bends: int = 1, span: tuple[float, float] = (-np.inf, np.inf)) -> tuple[Reals, Reals]:
        """Return the corners of the speed curve: both ends of every segment, s, and the speed there, steps/s.

        `span` as for `course`.

        Where the acceleration changes within segments, the curve between is told by so many straight pieces.
        """
        if np.count_nonzero(self._segments.columns.jerk):
            times, speeds, _rates = self.course(1 + bends, span)
            return times.repeat(2, axis=1)[:, 1:-1].ravel(), speeds.repeat(2, axis=1)[:, 1:-1].ravel()
        p = self._segments.within(span)
        speeds = np.concatenate((p.speed, p.top), axis=1)
        speeds = np.where(p.forward > NOUGHT, speeds, speeds[:, ::-1])
        speeds = np.where(speeds > STANDSTILL, speeds, NOUGHT)
        return np.concatenate((p.begin_s, p.end_s), axis=1).ravel(), (p.sign * speeds).ravel()

    def taken(self, time_s: float) -> int:
        """Return how many steps have happened up to and including `time_s`."""
        index = int(self._segments.at(time_s))
        # Halving over the instants themselves, one segment to either side, leaves no rounding of positions in.
        firsts = self._segments.columns.first.data
        low = firsts[index - 1] if index >= 1 else 0
        high = firsts[index + 2] if index + 2 < len(firsts) else self.count
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
        index = self._segments.of_step(taken - 1)
        segment = self._segments.row(index)
        return int(self._positions[index]) + segment.sign * (taken - segment.first)
