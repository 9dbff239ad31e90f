"""Speed curves: every axis's speed over time, thinned to what a width can show."""

from __future__ import annotations

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from kivant.core.motion.plan import AxisPlan, Plan

Curve = tuple[NDArray[np.float64], NDArray[np.float64]]
"""Times in s, ascending, and speeds as shares of the axis's own limit, without sign."""

_COLUMNS = 2000  # as many as a picture is wide, at the most
_SEEN = 4e-4  # of the greatest speed: by how much a corner is off its neighbours, each time half of them are left out
_HALVINGS = 6
_SHORT, _LONG = 100, 20  # corners, and corners in a column
_TINY = 1e-300


class Traces(Struct, frozen=True):
    """What pictures need of a plan: each axis's curve, and begin and end of each block in s, shape (blocks, 2)."""

    curves: list[Curve]
    blocks: NDArray[np.float64]


NO_TRACES = Traces([], np.empty((0, 2)))


def traces(plan: Plan) -> Traces:
    """Return the traces of a plan; a curve of many corners becomes the greatest speed in each of many columns."""
    blocks = np.array((plan.blocks.begin_s, plan.blocks.end_s)).T
    return Traces([_speed_curve(axis, plan.duration) for axis in plan.axes], blocks)


def curve_between(axis: AxisPlan, begin_s: float, end_s: float) -> Curve:
    """Return the curve of an axis over a span of a plan, its times from the beginning of the span."""
    times, shares = _corners(axis, (begin_s, end_s))
    inside = (times > begin_s) & (times < end_s)
    ends = np.array([begin_s, end_s])
    edges = np.interp(ends, times, shares) if len(times) else np.zeros(2)
    found = np.concatenate((ends[:1], times[inside], ends[1:])) - begin_s
    curve = _thinned((found, np.concatenate((edges[:1], shares[inside], edges[1:]))))
    return envelope(curve, end_s - begin_s, _COLUMNS) if len(found) > 2 * _COLUMNS else curve


def _corners(axis: AxisPlan, span: tuple[float, float]) -> Curve:
    times, speeds = axis.train.corners(8, span)
    limit = axis.axis.limits.speed * float(axis.steps_per_unit)
    return _with_rests(times.reshape(-1, 2), np.abs(speeds).reshape(-1, 2) / limit)


def _speed_curve(axis: AxisPlan, duration_s: float) -> Curve:
    curve = _thinned(_corners(axis, (-np.inf, np.inf)))
    return envelope(curve, duration_s, _COLUMNS) if len(curve[0]) > 2 * _COLUMNS else curve


def _thinned(curve: Curve) -> Curve:
    """Return a curve without corners that nobody sees, such as there are many of where a tool goes straight."""
    times, shares = curve
    if not _SHORT < len(times) <= _LONG * _COLUMNS:
        return curve  # painted as it is, or only its envelope
    # Where one piece ends and the next begins.
    again = (times[1:] - times[:-1] < 1e-9) & (np.abs(shares[1:] - shares[:-1]) < _SEEN / 10)
    kept = np.ones(len(times), np.bool_)
    np.logical_not(again, out=kept[1:])
    times, shares = times[kept], shares[kept]
    for turn in range(2 * _HALVINGS):
        before, after = times[1:-1] - times[:-2], times[2:] - times[1:-1]
        chord = shares[:-2] + (shares[2:] - shares[:-2]) * before / np.maximum(before + after, _TINY)
        flat = (np.abs(shares[1:-1] - chord) < _SEEN) & (before > 0) & (after > 0)
        if not np.count_nonzero(flat):
            break
        flat[turn % 2 :: 2] = False  # not two that lie side by side
        kept = np.ones(len(times), np.bool_)
        np.logical_not(flat, out=kept[1:-1])
        times, shares = times[kept], shares[kept]
    return times, shares


def _with_rests(times: NDArray[np.float64], shares: NDArray[np.float64]) -> Curve:
    """Return the corners of all pieces in a row, down to 0 wherever one piece does not follow on another."""
    parted = (times[1:, 0] > times[:-1, 1] + 1e-9) | (np.abs(shares[1:, 0] - shares[:-1, 1]) > 1e-6)
    all_shares, kept = np.zeros((len(times), 4)), np.ones((len(times), 4), np.bool_)
    all_shares[:, 1:3] = shares
    kept[1:, 0] = kept[:-1, 3] = parted
    return times.repeat(2, axis=1)[kept], all_shares[kept]


def envelope(curve: Curve, duration_s: float, columns: int) -> Curve:
    """Return the greatest share in each of `columns` equal spans of the duration, at their middles."""
    times, shares = curve
    edges = np.linspace(0.0, duration_s, columns + 1)
    at_edges = np.interp(edges, times, shares)
    tops = np.maximum(at_edges[:-1], at_edges[1:])
    np.maximum.at(tops, np.clip(np.searchsorted(edges, times, "right") - 1, 0, columns - 1), shares)
    return (edges[:-1] + edges[1:]) / 2, tops


def longest_intervals(
    instants_s: NDArray[np.float64], intervals_s: NDArray[np.float64], span_s: float, columns: int
) -> Curve:
    """Return the intervals between steps within a span of time, thinned to the longest in each of many columns.

    Parameters
    ----------
    instants_s, intervals_s : float arrays, shape (n,)
        When each interval ends, ascending, and how long it is.
    span_s : float
        Those later than this are left out.
    columns : int
        How many are shown at the most, each at the middle of its column then.
    """
    inside = int(np.searchsorted(instants_s, span_s)) or 1
    instants, gaps = instants_s[:inside], intervals_s[:inside]
    if len(gaps) <= columns:
        return instants, gaps
    bins = np.minimum((instants / span_s * columns).astype(int), columns - 1)
    longest = np.zeros(columns)
    np.maximum.at(longest, bins, gaps)
    shown = np.flatnonzero(longest)
    return (shown + 0.5) * span_s / columns, longest[shown]
