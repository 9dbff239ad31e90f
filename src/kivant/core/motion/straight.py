"""Straight lines of a tool: how the axes go so that it keeps to its line, within all their limits and its own.

A line p(s) from 0 to 1 is looked at in places, closer together where axes go far, at each of which the geometry tells
the positions q(s) of the axes. `path_rates` says how fast it may be gone. Between two places an axis goes along a cubic
of time that has its positions and speeds at both; all of it is slowed down for what the cubics need beyond a limit.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from kivant.core.machine.tool import Tool
from kivant.core.motion.cubic_course import Cubics, course_along
from kivant.core.motion.line_limits import LineLimits, strips_of
from kivant.core.motion.path_rates import greatest_rates
from kivant.core.motion.segment import Reals
from kivant.core.motion.speed_course import Course

TOLERANCE_MM = 0.05
"""How far a tool may be off its line where nothing is said."""

_PLACES = (128, 256, 512, 1024, 2048)
_FINE, _PASSES = 512, 3  # places at which it is found where more of them are needed, and how often
_BESIDE = 2e-5  # of the line: at which slopes and bends are taken
_CLOSE = 0.7  # of the tolerance, half way between places
_ENOUGH = 1.005  # times as slow as planned: the cubics are close enough to what was planned
_SINGULAR = 4.0  # times as slow as on most of its way: the line comes near a singular place
_SHARES = (0.5, 0.75, 1.0, 1.5, 2.0)  # of the time for a whole change of acceleration, over which a jerk is spread
_CLOSER = 64  # places between two, among which an axis turns round
_STILL = 1e-9  # of an axis unit: less is no way
_TINY = 1e-12


class LineError(Exception):
    """A line cannot be kept to; the text says why."""


class Line:
    """A straight line of a tool from where all axes `begin` to a place, as far as no limit is concerned."""

    def __init__(self, tool: Tool, begin: Sequence[float], target: Sequence[float]) -> None:
        self.tool, self.begin = tool, [float(position) for position in begin]
        self.axes = sorted(tool.axes.values())
        self.start = np.array(tool.place(self.begin))
        self.way = np.array(target) - self.start
        self.length = float(np.sqrt((self.way**2).sum()))
        self._fine = (1 - np.cos(np.linspace(0.0, np.pi, _FINE + 1))) / 2  # it is slow at its ends
        for _ in range(_PASSES):
            self._fine = self._closer(self._fine, _FINE)

    def at(self, share: Reals) -> Reals:
        """Return the positions of the axes of the tool at shares of the line, shape (places, axes).

        Raises
        ------
        UnreachableError
            If the line leaves what lengths and limits allow.
        """
        return np.asarray(self.tool.along(self.start + share[:, None] * self.way, self.begin))

    def _closer(self, share: Reals, count: int) -> Reals:
        """Return so many shares of the line, one half of them by time at its ends, the other by how far axes go."""
        far = np.abs(np.diff(self.at(share), axis=0))
        whole = far.sum(axis=0)
        own = (far[:, whole > 0] / whole[whole > 0]).mean(axis=1) if whole.any() else 1 / len(far)
        slow = np.diff(np.arccos(np.clip(1 - 2 * share, -1.0, 1.0))) / np.pi
        measure = np.concatenate(([0.0], np.cumsum((own + slow) / 2)))
        found = np.interp(np.linspace(0.0, measure[-1], count + 1), measure, share)
        found[0], found[-1] = 0.0, 1.0
        return np.asarray(found)

    def places(self, count: int) -> Reals:
        """Return so many shares of the line, and one, at which to look at it."""
        return self._fine[:: _FINE // count] if count <= _FINE else self._closer(self._fine, count)

    def slopes(self, share: Reals) -> tuple[Reals, Reals]:
        """Return how the positions of the axes change along the line, and how that changes, shape (places, axes)."""
        middle = np.clip(share, _BESIDE, 1.0 - _BESIDE)
        low, at, high = (self.at(middle + d) for d in (-_BESIDE, 0.0, _BESIDE))
        bends = (high - 2 * at + low) / _BESIDE**2
        return (high - low) / (2 * _BESIDE) + bends * (share - middle)[:, None], bends

    def turns(self, axis: int) -> list[float]:
        """Return the shares of the line at which an axis, by its column, turns round."""
        at = self.at(self._fine)[:, axis]
        ways = np.sign(np.where(np.abs(np.diff(at)) > _STILL, np.diff(at), 0.0))
        moved = ways.nonzero()[0]
        turned = np.flatnonzero(ways[moved[1:]] != ways[moved[:-1]])
        found = []
        for before, after in zip(moved[turned], moved[turned + 1] + 1, strict=True):
            low, high = float(self._fine[before]), float(self._fine[after])
            for _ in range(_PASSES + 1):  # each narrows it down to a thirtieth
                near = np.linspace(low, high, _CLOSER + 1)
                top = int(np.argmax(ways[before] * self.at(near)[:, axis]))
                low, high = float(near[max(top - 1, 0)]), float(near[min(top + 1, _CLOSER)])
            found.append((low + high) / 2)
        return found

    def parts(self, shares: Sequence[float]) -> tuple[Line, ...]:
        """Return the lines from stop to stop at ascending shares of it."""
        ends = [0.0, *shares, 1.0]
        at = self.at(np.array(ends))
        found = []
        for k in range(len(ends) - 1):
            begin = list(self.begin)
            for axis, position in zip(self.axes, at[k].tolist() if k else (), strict=False):
                begin[axis] = position
            found.append(Line(self.tool, begin, (self.start + ends[k + 1] * self.way).tolist()))
        return tuple(found)

    def middles(self, cubics: Cubics) -> tuple[Reals, Reals]:
        """Return where the tool is at the places and half way in time between them, shape (places, coordinates)."""
        found = []
        for at in (cubics.at, cubics.middle()):
            every: list[Reals | float] = [*self.begin]
            for k, axis in enumerate(self.axes):
                every[axis] = at[:, k]
            found.append(np.stack(np.broadcast_arrays(*self.tool.place(every, np)), axis=-1))
        return found[0], found[1]

    def moved_by(self, axis: int, way: float) -> float:
        """Return about how far an axis, if it is off by a way, moves the tool from where the line begins."""
        moved = [position + way * (k == axis) for k, position in enumerate(self.begin)]
        return math.dist(self.tool.place(moved), self.tool.place(self.begin))

    def off(self, middles: Reals) -> float:
        """Return how far places are off the line at most."""
        beside = middles - self.start
        along = (beside @ self.way) / max(self.length**2, _TINY)
        return float(np.sqrt(((beside - along[:, None] * self.way) ** 2).sum(axis=1)).max())


class Straight(NamedTuple):
    """How axes go along a line: its time, s, and for each axis by its place the end and the course.

    ``slowest`` is the share of its usual speed that the tool has at its slowest on the way, and ``where`` that is.
    """

    seconds: float
    ends: dict[int, float]
    courses: dict[int, Course]
    slowest: float
    where: tuple[float, ...]

    @property
    def is_singular(self) -> bool:
        """Whether the line comes so near a singular place that the tool has to slow down there."""
        return self.slowest < 1 / _SINGULAR


def straight(line: Line, limits: LineLimits, factor: float, tolerance: float) -> Straight:
    """Return how axes bring a tool along a line, at speeds scaled by a factor and off it by no more than a tolerance.

    Raises
    ------
    LineError
        If the tolerance is too small for it.
    UnreachableError
        If the line leaves what lengths and limits allow.
    """
    if line.length < _TINY:
        return Straight(0.0, {axis: line.begin[axis] for axis in line.axes}, {axis: [] for axis in line.axes}, 1.0, ())
    for count in _PLACES:
        cubics, ceilings, share = _laid(line, limits, factor, count)
        ends, middles = line.middles(cubics)
        slower = _excess(line, cubics, (ends, middles), limits, factor)
        if line.off(middles) <= _CLOSE * tolerance and slower <= _ENOUGH:
            break
    else:
        if line.off(middles) > tolerance:
            message = (
                f"The tool would be {line.off(middles):.2g} {line.tool.unit} off this line, more than {tolerance:g}."
            )
            raise LineError(message)
    cubics = cubics.slower(slower)
    usual = float(np.median(np.interp(np.linspace(0, 1, 201), share, ceilings)))
    low = int(np.argmin(ceilings[1:-1])) + 1
    where = tuple(float(value) for value in line.start + share[low] * line.way)
    return Straight(
        float(cubics.times.sum()), {axis: float(cubics.at[-1, k]) for k, axis in enumerate(line.axes)},
        {axis: course_along(cubics, k) for k, axis in enumerate(line.axes)},
        float(ceilings[low]) / usual if usual else 1.0, where,
    )  # fmt: skip


def cubics_along(line: Line, limits: LineLimits, factor: float) -> Cubics:
    """Return about how axes go along a line: looked at in a few places only."""
    cubics, _ceilings, _share = _laid(line, limits, factor, _PLACES[0])
    return cubics.slower(_excess(line, cubics, line.middles(cubics), limits, factor))


def _laid(line: Line, limits: LineLimits, factor: float, count: int) -> tuple[Cubics, Reals, Reals]:
    """Return the cubics along a line, and by how much rates are bounded at which shares of it."""
    share = line.places(count)
    slopes, bends = line.slopes(share)
    length = max(line.length, _TINY)
    most = (limits.speeds(factor) / np.maximum(np.abs(slopes), _TINY)).min(axis=1)
    most = np.minimum(most, factor * limits.tool_speed / length)
    rates = limits.rates(np.abs(slopes) * most[:, None])
    strips = strips_of(np.diff(share), slopes, bends, rates, (length, limits.tool_acceleration))
    found, ceilings = greatest_rates(share, most, strips)
    times = 2 * np.diff(share) / np.maximum(found[1:] + found[:-1], _TINY)
    if np.isfinite(limits.jerk).any():
        return _spread(line, limits, factor, (share, found, times)), ceilings, share
    return Cubics(line.at(share), slopes * found[:, None], times), ceilings, share


def _spread(line: Line, limits: LineLimits, factor: float, laid: tuple[Reals, Reals, Reals]) -> Cubics:
    """Return cubics whose accelerations change within the limits of jerk: means of the way over some time.

    Over how much time is tried; the fastest is taken, once all limits are kept.
    """
    jerky = np.isfinite(limits.jerk)
    rates = np.maximum(limits.acceleration, limits.deceleration)
    whole = float((np.where(np.isfinite(rates), rates, 0.0) / limits.jerk)[jerky].max())
    seconds = float(laid[2].sum())
    best: tuple[float, Cubics] | None = None
    for part in _SHARES:
        cubics = _means(line, laid, min(whole * part, seconds))
        cubics = cubics.slower(_excess(line, cubics, line.middles(cubics), limits, factor))
        takes = float(cubics.times.sum())
        if best is None or takes < best[0]:
            best = takes, cubics
    assert best is not None
    return best[1]


def _means(line: Line, laid: tuple[Reals, Reals, Reals], over: float) -> Cubics:
    """Return cubics along a line whose share at any time is the mean of what it was over some time before."""
    from scipy.interpolate import CubicSpline  # loaded where axes have a jerk

    share, rates, times = laid
    begin = np.concatenate(([0.0], np.cumsum(times)))
    change = np.diff(rates) / times
    pieces = times * (share[:-1] + times * (rates[:-1] / 2 + times * change / 6))
    areas = np.concatenate(([0.0], np.cumsum(pieces)))

    def area(at: Reals) -> Reals:
        inside = np.clip(at, 0.0, begin[-1])
        k = np.clip(np.searchsorted(begin, inside, "right") - 1, 0, len(times) - 1)
        t = inside - begin[k]
        return np.asarray(
            areas[k] + t * (share[k] + t * (rates[k] / 2 + t * change[k] / 6)) + np.maximum(at - inside, 0)
        )

    when = np.linspace(0.0, begin[-1] + over, 2 * len(times) + 1)
    found = np.clip((area(when) - area(when - over)) / over, 0.0, 1.0)
    found[0], found[-1] = 0.0, 1.0
    at = line.at(np.maximum.accumulate(found))
    speeds = CubicSpline(when, at, bc_type="clamped")(when, 1)
    return Cubics(at, np.asarray(speeds), np.diff(when))


def _excess(line: Line, cubics: Cubics, places: tuple[Reals, Reals], limits: LineLimits, factor: float) -> float:
    """Return how many times as slow axes have to go along cubics so that they and the tool keep to all limits."""
    speeds = cubics.greatest_speeds()
    first, last = cubics.rates()
    up, down = limits.rates(speeds)
    mean = np.diff(cubics.at, axis=0)
    turns = cubics.speeds[1:] * cubics.speeds[:-1] < 0
    both = np.minimum(up, down)

    def by(rate: Reals) -> float:
        most = np.where(turns, both, np.where(rate * mean >= 0, up, down))
        return float((np.abs(rate) / most).max())

    ends, middles = places
    half = cubics.times[:, None] / 2
    parts = (middles - ends[:-1]) / half, (ends[1:] - middles) / half
    rate = float(np.sqrt((((parts[1] - parts[0]) / half) ** 2).sum(axis=1)).max())
    speed = max(float(np.sqrt((part**2).sum(axis=1)).max()) for part in parts)
    return max(
        1.0,
        float((speeds / limits.speeds(factor)).max()),
        speed / (factor * limits.tool_speed),
        math.sqrt(max(by(first), by(last), rate / limits.tool_acceleration)),
        math.cbrt(float((np.abs(cubics.jerks()) / limits.jerk).max())),
    )
