"""Speed curves as paths: every axis's speed over time, thinned to what a width can show."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainterPath, QPolygonF

from kivant.core.plan import AxisPlan, Plan

Curve = tuple[NDArray[np.float64], NDArray[np.float64]]


_COLUMNS = 2000  # as many as a picture is wide, at the most


def speed_curves(plan: Plan) -> list[Curve]:
    """Return for each axis times (s) and speeds (share of the axis's own limit, without sign).

    A curve of many pieces becomes the greatest speed in each of some thousand columns.
    """
    return [_speed_curve(axis, plan.duration) for axis in plan.axes]


def _speed_curve(axis: AxisPlan, duration_s: float) -> Curve:
    times, speeds = axis.train.corners()
    limit = axis.axis.limits.speed * float(axis.steps_per_unit)
    shares = np.abs(speeds) / limit
    if len(times) <= 2 * _COLUMNS or duration_s <= 0:
        return _with_rests(times.reshape(-1, 2), shares.reshape(-1, 2))
    bins = np.minimum((times / duration_s * _COLUMNS).astype(np.int64), _COLUMNS - 1)
    peaks = np.zeros(_COLUMNS)
    np.maximum.at(peaks, bins, shares)
    return (np.arange(_COLUMNS) + 0.5) * duration_s / (_COLUMNS), peaks


def _with_rests(times: NDArray[np.float64], shares: NDArray[np.float64]) -> Curve:
    """Return the corners of all pieces in a row, down to 0 wherever one piece does not follow on another."""
    begins = np.ones(len(times), bool)
    begins[1:] = (times[1:, 0] > times[:-1, 1] + 1e-9) | (np.abs(shares[1:, 0] - shares[:-1, 1]) > 1e-6)
    ends = np.append(begins[1:], True)[: len(times)]
    nothing = np.zeros(len(times))
    all_times = np.stack((times[:, 0], times[:, 0], times[:, 1], times[:, 1]), axis=1)
    all_shares = np.stack((nothing, shares[:, 0], shares[:, 1], nothing), axis=1)
    kept = np.stack((begins, ~nothing.astype(bool), ~nothing.astype(bool), ends), axis=1)
    return all_times[kept], all_shares[kept]


def path_of(curve: Curve, left: float, base: float, per_second: float, height: float) -> QPainterPath:
    """Return the curve as a path that stands on the line `base`."""
    path = QPainterPath()
    columns = zip((left + curve[0] * per_second).tolist(), (base - curve[1] * height).tolist(), strict=True)
    path.addPolygon(QPolygonF([QPointF(x, y) for x, y in columns]))
    return path
