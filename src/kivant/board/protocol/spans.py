"""From a plan to motion records: the plan's path cut into spans that a quadratic tells exactly. No I/O.

A span ends where the acceleration changes, and after a quarter of a second at most. The places at its ends are those
of the plan at whole ticks, each rounded for itself, and their counts are the plan's: neither time nor position drifts.
A change of acceleration falls between two ticks; where it matters, a span of one tick leads over it.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from kivant.board.protocol.record import MOST_TICKS, MOST_US, PLACE_BITS, SHARE_ONE, SUM_BITS, AxisSpan, Span
from kivant.core.motion.plan import AxisPlan, Plan
from kivant.core.motion.segment import Reals, Wholes
from kivant.core.motor.pulling import steady_rates_of

LONGEST_S = 0.25
"""Longest span: after it at the latest a board tells how far it is, and may be told something else."""

_CHUNK = 2048  # spans that are cut at a time
_SAME_TICK = 1e-6  # a time so near to a tick is on it: a sum of rounded durations
_MOST_OFF = 2.0**-24  # steps: by how much a span may be off the plan at a tick; at 0.01 steps/s, 6 us
_SLOW_HZ = 1.0  # steps/s: below it, a step has a tick of its own
_MOST_SHARE = 1000.0
_MOST_CUBIC, _LEAST_CUBIC = 2.0**-10, 2.0**-17  # steps: by how much a quadratic may be off a piece with jerk
_LATE_S = 8e-6  # by how much steps may be late for that, as long as it is not less than the least


def place_of(position: float, count: int) -> int:
    """Return the place, in 2^-32 step, of a position in steps at which `count` is counted."""
    share = min(max(position + 0.5 - count, 0.0), 1.0)
    one = 1 << PLACE_BITS
    return count * one + min(int(share * one), one - 1)


def start_places(plan: Plan) -> tuple[int, ...]:
    """Return the place of each axis before the plan, in 2^-32 step."""
    return tuple(place_of(float(axis.train.ends.start), axis.start_steps) for axis in plan.axes)


def quadratic(ticks: int, begin: int, end: int, acceleration: float) -> AxisSpan:
    """Return the sums that lead from place `begin` to place `end` at an acceleration in steps/tick²."""
    change = round(acceleration * 2.0**SUM_BITS)
    way = (end - begin << SUM_BITS - PLACE_BITS) - change * (ticks * (ticks - 1) // 2)
    return AxisSpan(end, (2 * way + ticks) // (2 * ticks), change)


def spans(plan: Plan) -> Iterator[Span]:
    """Yield the whole plan from its start to its end, the lead-in included."""
    places = start_places(plan)
    grid = _grid(plan)
    for low in range(0, len(grid) - 1, _CHUNK):
        for span in _Cut.of(plan, grid[low : low + _CHUNK + 1]).spans(places):
            places = tuple(axis.end for axis in span.axes)
            yield span


def _grid(plan: Plan) -> Wholes:
    """Return the ticks on both sides of each change of acceleration, and between them where they are far apart.

    A step at which an axis hardly moves has a tick of its own: where a position is off by next to nothing, it would
    come much too early or late.
    """
    hz = plan.machine.board.tick_hz
    times = np.concatenate(([0.0, plan.duration], *(axis.train.corners()[0] for axis in plan.axes)))
    ticks = np.unique(times) * hz
    slow = np.maximum(_tick_of(np.concatenate([axis.train.slow_instants(_SLOW_HZ) for axis in plan.axes]) * hz), 1)
    corners = np.unique(np.concatenate((-_tick_of(-ticks), _tick_of(ticks), slow - 1, slow)))
    most = max(min(MOST_TICKS, int(LONGEST_S * hz)), 1)
    return _parted(corners, np.ceil(np.diff(corners) / most))


def _tick_of(ticks: Reals) -> Reals:
    """Return the whole tick at which, or before which, times in ticks are."""
    near = np.rint(ticks)
    return np.where(np.abs(ticks - near) <= _SAME_TICK + 4 * np.spacing(np.abs(ticks)), near, np.ceil(ticks))


def _parted(ends: Reals, parts: Reals) -> Wholes:
    """Return whole ticks that part each gap between `ends` into so many even parts."""
    count = np.maximum(parts, 1).astype(np.int64)
    first = np.repeat(np.cumsum(count) - count, count)
    share = (np.arange(len(first)) - first) / np.repeat(count, count)
    found = np.repeat(ends[:-1], count) + np.floor(share * np.repeat(np.diff(ends), count))
    return np.unique(np.append(found, ends[-1:])).astype(np.int64)


class _Cut(NamedTuple):
    """Gaps between the ticks of a grid, each within one piece of the plan; arrays of axes times gaps (or ends)."""

    grid: Wholes
    positions: Reals
    counts: Wholes
    accelerations: Reals  # steps/tick²
    brakes_s: tuple[Reals, Reals]  # at the beginning and the end of every gap
    shares: Reals

    @classmethod
    def of(cls, plan: Plan, grid: Wholes) -> _Cut:
        hz, axes = plan.machine.board.tick_hz, plan.axes
        grid = _refined(axes, grid, hz)
        ticks, times = np.diff(grid), grid / hz
        positions = np.stack([axis.train.ideal(times) for axis in axes])
        # A step that falls on a tick is counted there, however its instant was rounded; none is before the first one.
        later = np.where(grid > 0, times + (2 * _SAME_TICK + 8 * np.spacing(times * hz)) / hz, -1.0)
        counts = np.stack([axis.train.steps_at(later) for axis in axes])
        middle = np.stack([axis.train.ideal((times[:-1] + times[1:]) / 2) for axis in axes])
        bend = positions[:, :-1] - 2 * middle + positions[:, 1:]
        accelerations = np.where(ticks > 1, 4 * bend / (ticks * ticks.astype(np.float64)), 0.0)
        return cls(grid, positions, counts, accelerations, *_braking(plan, times))

    def spans(self, places: Sequence[int]) -> Iterator[Span]:
        """Yield the spans from `places` on."""
        grid, firsts = self.grid.tolist(), np.flatnonzero(~self._joined()).tolist()
        rows = zip(self.positions.T.tolist(), self.counts.T.tolist(), strict=True)
        ends = [tuple(map(place_of, *row)) for row in rows]
        bends = self.accelerations.T.tolist()
        brakes_us = np.ceil(np.minimum(np.stack(self.brakes_s, axis=1) * 1e6, MOST_US)).astype(np.int64).tolist()
        shares = np.ceil(self.shares * SHARE_ONE - 1e-4).tolist()
        for first, last in zip(firsts, [*firsts[1:], len(grid) - 1], strict=True):
            # Of the gaps that were joined, all but one are a single tick.
            main = max(range(first, last), key=lambda gap: grid[gap + 1] - grid[gap])
            ticks = grid[last] - grid[first]
            axes = tuple(quadratic(ticks, *row) for row in zip(places, ends[last], bends[main], strict=True))
            yield Span(ticks, axes, (brakes_us[main][0], brakes_us[main][1]), int(shares[main]))
            places = ends[last]

    def _joined(self) -> NDArray[np.bool_]:
        """Return which gaps are joined to the one before: where a single tick may be told by its neighbour's bend."""
        ticks = np.diff(self.grid)
        joined = np.zeros(len(ticks), np.bool_)
        # A step between two pieces stays at its tick: at standstill, the neighbour would have it at its end.
        single = (ticks == 1) & ~np.any(np.diff(self.counts, axis=1), axis=0)
        before = np.flatnonzero(single[:-1] & (ticks > 1)[1:])
        before = before[self._off(before, before + 1, before + 1) < _MOST_OFF]
        joined[before + 1] = True
        single[before] = False
        after = np.flatnonzero((ticks > 1)[:-1] & single[1:]) + 1
        joined[after[self._off(after - 1, after - 1, after) < _MOST_OFF]] = True
        return joined

    def _off(self, first: Wholes, main: Wholes, between: Wholes) -> Reals:
        """Return how far the end `between` two gaps lies off the quadratic of both, in steps."""
        n = (self.grid[first + 2] - self.grid[first]).astype(np.float64)
        k = (self.grid[between] - self.grid[first]).astype(np.float64)
        begin, bend = self.positions[:, first], self.accelerations[:, main]
        speed = (self.positions[:, first + 2] - begin) / n - bend * (n - 1) / 2
        off = begin + speed * k + bend * k * (k - 1) / 2 - self.positions[:, between]
        return np.asarray(np.max(np.abs(off), axis=0, initial=0.0))


def _refined(axes: Sequence[AxisPlan], grid: Wholes, hz: int) -> Wholes:
    """Return the grid with gaps parted in which the path bends more than a quadratic can."""
    begin, end = grid[:-1] / hz, grid[1:] / hz
    off = np.zeros(len(begin))  # as a share of what it may be
    for axis in axes:
        p = [axis.train.ideal(begin + share * (end - begin)) for share in (0.0, 0.25, 0.5, 1.0)]
        own = np.abs(p[1] - (3 * p[0] + 6 * p[2] - p[3]) / 8)
        if np.max(own, initial=0.0) > _LEAST_CUBIC:
            speeds = (np.abs(axis.train.speed(begin + share * (end - begin))) for share in (1e-6, 1 - 1e-6))
            most = np.clip(_LATE_S * np.minimum(*speeds), _LEAST_CUBIC, _MOST_CUBIC)
            np.maximum(off, own / most, out=off)
    if np.max(off, initial=0.0) <= 1.0:
        return grid
    return _parted(grid.astype(np.float64), np.ceil(np.cbrt(off)))


def _braking(plan: Plan, times: Reals) -> tuple[tuple[Reals, Reals], Reals]:
    """Return how long braking takes at both ends of every gap, s, and the share that the plan uses."""
    length = np.diff(times)
    needs = []
    for axis in plan.axes:
        limit = steady_rates_of(plan.machine, axis.axis).deceleration
        early, late = (np.abs(axis.train.speed(times[:-1] + share * length)) / limit for share in (0.25, 0.75))
        needs.append((np.maximum(1.5 * early - 0.5 * late, 0.0), np.maximum(1.5 * late - 0.5 * early, 0.0)))
    begins, ends = (np.stack(column) for column in zip(*needs, strict=True))
    begin, end = begins.max(axis=0), ends.max(axis=0)
    with np.errstate(divide="ignore", invalid="ignore"):
        # An axis that is farther from its limit counts for more: what it has left is less in its own terms.
        weights = np.maximum(begin, end) / np.maximum(begins, ends)
        shares = np.max(np.where(np.isfinite(weights), weights * (begins - ends) / length, -np.inf), axis=0)
    return (begin, end), np.clip(np.where(np.isfinite(shares), shares, 0.0), -_MOST_SHARE, _MOST_SHARE)
