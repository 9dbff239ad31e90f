"""Straight lines of a tool: how the axes go so that it keeps to its line, within all their limits and its own.

A line p(s) from 0 to 1 is looked at in places close enough together, at each of which the geometry tells the positions
q(s) of the axes. Gone at the rate s', an axis has the speed q' s' and the acceleration q' s'' + q'' s'^2. Half of what
it may have is left to each of the two terms; the greatest rates are then found forwards from one end and backwards from
the other. Between two places an axis goes along a cubic of time that has its positions and speeds at both.

References
----------
J. E. Bobrow, S. Dubowsky and J. S. Gibson, "Time-Optimal Control of Robotic Manipulators Along Specified Paths",
International Journal of Robotics Research, 1985 (the forward and backward passes; limits are simplified here).
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import NamedTuple

import numpy as np

from kivant.core.machine.parts import Machine
from kivant.core.machine.tool import Tool, UnreachableError
from kivant.core.motion.rates import Rates, rates_of
from kivant.core.motion.segment import Reals
from kivant.core.motion.speed_course import Course, Piece
from kivant.core.travel.conversion import steps_per_unit

TOLERANCE_MM = 0.05
"""How far a tool may be off its line where nothing is said."""

_PLACES = (64, 128, 256, 512)
_BESIDE = 1e-4  # of the line: at which slopes and bends are taken
_STEADY = 0.9  # of the acceleration of the tool, which cubics of its axes do not keep even
_TINY = 1e-12
_LEFT = 0.99
_SINGULAR = 4.0  # times as slow as on most of its way: the line comes near a singular place


class Straight(NamedTuple):
    """How axes go along a line: its time, s, and for each axis by its place the end and the course.

    ``slowest`` is the share of its usual speed that the tool has at its slowest on the way, and ``where`` that is.
    """

    seconds: float
    ends: dict[int, float]
    courses: dict[int, Course]
    slowest: float
    where: tuple[float, ...]


def straight(
    machine: Machine, tool: Tool, start: Sequence[float], target: Sequence[float], factor: float, tolerance: float
) -> Straight:
    """Return how axes at `start` (all of them, in axis units) bring the tool straight to the place `target`.

    Raises
    ------
    UnreachableError
        If the line leaves what lengths and limits allow.
    """
    begin = np.array(tool.place(start))
    line = np.array(target) - begin
    axes = sorted(tool.axes.values())
    own = [_in_units(rates_of(machine, machine.axes[axis]), float(steps_per_unit(machine.axes[axis]))) for axis in axes]
    geometry = machine.geometry
    limits = (getattr(geometry, "tool_speed", None), getattr(geometry, "tool_acceleration", None))
    length = float(np.sqrt((line**2).sum()))
    for count in _PLACES:
        share = (1 - np.cos(np.linspace(0.0, np.pi, count + 1))) / 2  # closer together at the ends, where it is slow
        places = begin + share[:, None] * line
        at = _positions(tool, start, places)
        slopes, bends = _slopes(tool, start, begin, line, share)
        rates, most = _rates(share, (slopes, bends), own, length, limits, factor)
        times = 2 * np.diff(share) / np.maximum(rates[1:] + rates[:-1], _TINY)
        speeds = slopes * rates[:, None]
        close = _off(tool, start, at, speeds, times, (begin, line)) <= 0.7 * tolerance
        if close and _keeps(at, speeds, times, own):
            break
    courses = {axis: _course(at[:, k], speeds[:, k], times) for k, axis in enumerate(axes)}
    usual = float(np.median(most[1:-1]))
    low = int(np.argmin(most[1:-1])) + 1
    place = tuple(float(value) for value in places[low])
    return Straight(float(times.sum()), {axis: float(at[-1, k]) for k, axis in enumerate(axes)}, courses,
                    float(most[low]) / usual if usual else 1.0, place)  # fmt: skip


def is_singular(found: Straight) -> bool:
    """Return whether a line comes so near a singular place that the tool has to slow down there."""
    return found.slowest < 1 / _SINGULAR


def _in_units(rates: Rates[float], ratio: float) -> tuple[float, float]:
    """Return the greatest speed (wished, and of the pulses) and acceleration of an axis, in axis units."""
    return rates.speed / ratio, min(rates.acceleration, rates.deceleration, 1e9 * ratio) / ratio


def _positions(tool: Tool, start: Sequence[float], places: Reals) -> Reals:
    """Return the positions of the axes of the geometry at places, shape (places, axes), from where they are on."""
    axes = sorted(tool.axes.values())
    found = np.empty((len(places), len(axes)))
    before = {axis: float(start[axis]) for axis in axes}
    for row, place in enumerate(places.tolist()):
        wanted = dict(zip(tool.coordinates, place, strict=True))
        positions = tool.inverse_near(wanted, before)
        before = positions
        found[row] = [positions[axis] for axis in axes]
    return found


def _slopes(tool: Tool, start: Sequence[float], begin: Reals, line: Reals, share: Reals) -> tuple[Reals, Reals]:
    """Return how the positions of the axes change along the line, and how that changes, shape (places, axes)."""
    middle = np.clip(share, _BESIDE, 1.0 - _BESIDE)
    low, at, high = (_positions(tool, start, begin + (middle + d)[:, None] * line) for d in (-_BESIDE, 0.0, _BESIDE))
    bends = (high - 2 * at + low) / _BESIDE**2
    return (high - low) / (2 * _BESIDE) + bends * (share - middle)[:, None], bends


def _keeps(at: Reals, speeds: Reals, times: Reals, own: Sequence[tuple[float, float]]) -> bool:
    """Return whether the axes keep to their limits along the cubics, too."""
    most, rate = np.array(own).T
    long = np.maximum(times, _TINY)[:, None]
    mean = np.diff(at, axis=0) / long
    first, last = speeds[:-1], speeds[1:]
    middle = 1.5 * mean - (first + last) / 4
    ends = np.maximum(np.abs(6 * mean - 4 * first - 2 * last), np.abs(6 * mean - 2 * first - 4 * last)) / long
    return bool(np.all(np.abs(middle) <= most) and np.all(ends <= rate))


def _off(
    tool: Tool, start: Sequence[float], at: Reals, speeds: Reals, times: Reals, line: tuple[Reals, Reals]
) -> float:
    """Return how far the tool is off its line half way between the places, where the axes go along their cubics."""
    middle = (at[1:] + at[:-1]) / 2 + (speeds[:-1] - speeds[1:]) * times[:, None] / 8
    every: list[Reals | float] = list(start)
    for k, axis in enumerate(sorted(tool.axes.values())):
        every[axis] = middle[:, k]
    begin, way = line
    beside = np.stack(np.broadcast_arrays(*tool.place(every, np)), axis=-1) - begin
    along = (beside @ way) / max(float(way @ way), _TINY)
    return float(np.sqrt(((beside - along[:, None] * way) ** 2).sum(axis=1)).max())


def _rates(
    share: Reals, shape: tuple[Reals, Reals], own: Sequence[tuple[float, float]], length: float,
    limits: tuple[float | None, float | None], factor: float,
) -> tuple[Reals, Reals]:  # fmt: skip
    """Return at which rates the line is gone at each place, and at which it might be by the speeds alone, per s."""
    slopes, bends = shape
    speed, acceleration = np.array(own).T
    speed, acceleration = _LEFT * speed, _LEFT * acceleration  # what cubics may add between the places
    most = (factor * speed / np.maximum(np.abs(slopes), _TINY)).min(axis=1)
    if limits[0] is not None:
        most = np.minimum(most, _LEFT * factor * limits[0] / max(length, _TINY))
    turning = np.sqrt((acceleration / 2 / np.maximum(np.abs(bends), _TINY)).min(axis=1))
    change = (acceleration / 2 / np.maximum(np.abs(slopes), _TINY)).min(axis=1)
    if limits[1] is not None:
        change = np.minimum(change, _STEADY * limits[1] / max(length, _TINY))
    squares = np.minimum(most, turning) ** 2
    squares[0] = squares[-1] = 0.0
    gain = 2 * np.minimum(change[1:], change[:-1]) * np.diff(share)
    for k in range(len(gain)):
        squares[k + 1] = min(squares[k + 1], squares[k] + gain[k])
    for k in reversed(range(len(gain))):
        squares[k] = min(squares[k], squares[k + 1] + gain[k])
    return np.sqrt(squares), np.minimum(most, turning)


def _course(at: Reals, speeds: Reals, times: Reals) -> Course:
    """Return the course of an axis through positions with speeds: cubics, cut where they turn round or peak."""
    found: Course = []
    rows = zip(pairwise(at.tolist()), pairwise(speeds.tolist()), times.tolist(), strict=True)
    for (first, last), (begin, end), seconds in rows:
        if seconds <= 0:
            continue
        mean = (last - first) / seconds
        rate = (6 * mean - 4 * begin - 2 * end) / seconds
        jerk = 6 * (begin + end - 2 * mean) / seconds**2
        cuts = {0.0, seconds, *_roots(jerk / 2, rate, begin, seconds)}
        if jerk:
            cuts |= {t for t in (-rate / jerk,) if 0 < t < seconds}
        for a, b in pairwise(sorted(cuts)):
            found += _piece(begin, rate, jerk, a, b)
    return found


def _roots(a: float, b: float, c: float, most: float) -> list[float]:
    """Return where ``a t² + b t + c`` is 0 within a time."""
    if abs(a) < 1e-300:
        roots = [-c / b] if b else []
    else:
        under = b * b - 4 * a * c
        if under < 0:
            return []
        q = -(b + (1 if b >= 0 else -1) * under**0.5) / 2
        roots = [q / a, *([c / q] if q else [])]
    return [t for t in roots if 1e-9 * most < t < most * (1 - 1e-9)]


def _piece(begin: float, rate: float, jerk: float, first: float, last: float) -> Course:
    seconds = last - first
    speed = begin + first * (rate + first * jerk / 2)
    middle = begin + (first + last) / 2 * (rate + (first + last) / 4 * jerk)
    sense = 1 if middle > 0 else -1 if middle < 0 else 0
    if not sense:
        return [Piece(0, seconds)]
    here = rate + first * jerk
    return [Piece(sense, seconds, max(sense * speed, 0.0), sense * here, sense * jerk)]


__all__ = ["TOLERANCE_MM", "Straight", "UnreachableError", "is_singular", "straight"]
