"""Instants in bulk: when each step of many segments happens.

This is the inner loop of all that looks at every step. A long segment is solved by itself, with as few passes over
its steps as can be; short ones are solved together, each number of theirs repeated for each of their steps. Work goes
in chunks that stay in the processor's cache.

On every segment, step j away from the anchor lies x = j + near steps from it. The time from there is x/v without
acceleration, sqrt(2x/a) from standstill, 2x / (v + sqrt(v² + 2ax)) without jerk, and the root of a cubic otherwise;
`kivant.core.motion.segment` says why.
"""

from __future__ import annotations

import importlib
import itertools
from collections.abc import Iterator
from functools import cache
from types import ModuleType

import numpy as np
from numpy.typing import NDArray

from kivant.core.motion.segment import STANDSTILL, Reals, Segment, SegmentColumns, SegmentRow, Wholes, solve_cubic

_CHUNK = 16_384  # steps
_LONG = 1_024  # steps from which on a segment is solved by itself
_FEW = 2_048  # steps on cubics up to which machine code is not worth being loaded


def instants_on(segments: SegmentColumns, counts: Wholes) -> Reals:
    """Return when every step on segments in time order happens, ascending, in s, shape (sum of `counts`,)."""
    out = np.empty(int(counts.sum()))
    long = counts >= _LONG
    if not np.any(long):
        _solve_short(segments, counts, out)
        return out
    for row, count in zip(_rows(_pick(segments, long)), counts[long].tolist(), strict=True):
        _solve_long(row, out[row.first : row.first + count])
    _solve_short(_pick(segments, ~long), counts[~long], out)
    return out


def _pick(segments: SegmentColumns, which: NDArray[np.bool_]) -> SegmentColumns:
    return Segment._make(column[which] for column in segments)


def _rows(segments: SegmentColumns) -> Iterator[SegmentRow]:
    return itertools.starmap(Segment, zip(*(column.tolist() for column in segments), strict=True))


@cache
def _kernel() -> ModuleType:
    """Return the machine code for cubics, which takes some time to load."""
    return importlib.import_module("kivant.core.motion.cubic_kernel")


@cache
def _counting() -> Reals:
    return np.arange(_CHUNK, dtype=np.float64)


def _solve_long(p: SegmentRow, out: Reals) -> None:
    """Solve all steps of one segment, in chunks away from its anchor."""
    if p.jerk:
        solve = _after_jerk
    elif p.acceleration == 0.0:
        solve = _after_cruise
    else:
        solve = _after_standstill if p.speed == STANDSTILL else _after_ramp
    solve(p, _counting()[: len(out)] if p.forward > 0 else _counting()[: len(out)][::-1], _chunks(p, out))


_Chunks = Iterator[tuple[float, slice, Reals]]


def _chunks(p: SegmentRow, out: Reals) -> _Chunks:
    """Yield the distance of the nearest step of each chunk, its part of the numbers, and where its instants go."""
    count = len(out)
    for low in range(0, count, _CHUNK):
        high = min(low + _CHUNK, count)
        if p.forward > 0:
            yield low + p.near, slice(high - low), out[low:high]
        else:  # the step next to the anchor is the last
            yield low + p.near, slice(low - high, None), out[count - high : count - low]


# What all chunks share is done once, before the first.


def _after_cruise(p: SegmentRow, counted: Reals, chunks: _Chunks) -> None:
    scaled = counted * (p.forward / p.speed)
    for near, own, out in chunks:
        np.add(scaled[own], p.anchor_s + p.forward * near / p.speed, out=out)


def _after_standstill(p: SegmentRow, counted: Reals, chunks: _Chunks) -> None:
    factor = 2.0 / p.acceleration
    scaled = counted * factor
    for near, own, out in chunks:
        away = scaled[own] + near * factor
        np.sqrt(away, out=away)
        _join(p, away, out)


def _after_ramp(p: SegmentRow, counted: Reals, chunks: _Chunks) -> None:
    v, a = p.speed, p.acceleration
    doubled, scaled = counted * 2.0, counted * (2.0 * a)
    for near, own, out in chunks:
        root = scaled[own] + (v * v + 2.0 * a * near)
        np.sqrt(root, out=root)
        root += v
        away = doubled[own] + 2.0 * near
        away /= root
        _join(p, away, out)


def _after_jerk(p: SegmentRow, counted: Reals, chunks: _Chunks) -> None:
    away = np.empty(len(counted))
    for near, own, out in chunks:
        _kernel().solve_run(near, p.speed, p.acceleration, p.jerk, p.end_s - p.begin_s, away[own])
        _join(p, away[own][:: p.forward], out)


def _join(p: SegmentRow, away: Reals, out: Reals) -> None:
    (np.add if p.forward > 0 else np.subtract)(p.anchor_s, away, out=out)


def _solve_short(p: SegmentColumns, counts: Wholes, out: Reals) -> None:
    """Solve all steps of segments that need not follow one another, into their places in `out`."""
    ends = np.cumsum(counts)
    begins, count = ends - counts, int(counts.sum())
    gaps = p.first - begins  # numbered through, step k of these is step k + gap of all
    jerky, anchors = bool(np.any(p.jerk)), p.anchor_s
    for low in range(0, count, _CHUNK):
        high = min(low + _CHUNK, count)
        begin, last = np.searchsorted(ends, (low, high - 1), side="right").tolist()
        own = slice(begin, last + 1)
        taken = np.minimum(ends[own], high) - np.maximum(begins[own], low)
        forward, near_anchor = p.forward[own], p.base[own] - gaps[own] - low
        numbers = (near_anchor, forward * p.near[own], p.speed[own], 2.0 * forward * p.acceleration[own], anchors[own])
        jerks = (forward, p.jerk[own], p.end_s[own] - p.begin_s[own]) if jerky else ()
        found = _solve_each(np.stack((*numbers, *jerks), dtype=np.float64).repeat(taken, axis=1))
        if count == len(out):
            out[low:high] = found
        else:
            out[np.arange(low, high) + gaps[own].repeat(taken)] = found


def _solve_each(numbers: Reals) -> Reals:
    """Return the instants of steps one after another, each with the numbers of its own segment, which are used up.

    Distances have the sign of the time from the anchor, and accelerations too: their products have none.
    """
    x, near, v, root, anchor, *jerks = numbers
    np.subtract(_counting()[: len(x)], x, out=x)
    x += near
    rate = root.copy() if jerks else root
    root *= x
    root += v * v
    if jerks:  # with jerk the numbers mean something else, and are solved below
        np.maximum(root, 0.0, out=root)
    np.sqrt(root, out=root)
    root += v
    away: Reals = x * 2.0
    away /= root
    if jerks and len(jerky := np.flatnonzero(jerks[1])):
        forward, jerk, longest = (column[jerky] for column in jerks)
        asked = (forward * x[jerky], v[jerky], forward * rate[jerky] / 2.0, jerk, longest)
        if len(jerky) < _FEW:
            solved = solve_cubic(*asked)
        else:
            solved = np.empty(len(jerky))
            _kernel().solve_each(*asked, solved)
        away[jerky] = forward * solved
    away += anchor
    return away
