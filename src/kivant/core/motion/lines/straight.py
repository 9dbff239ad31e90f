"""Straight lines of a tool: how the axes go so that it keeps to its line, within all their limits and its own.

A line p(s) from 0 to 1 is looked at in places, closer together where axes go far, at each of which the geometry tells
the positions q(s) of the axes. `path_rates` says how fast it may be gone. Between two places an axis goes along a cubic
of time that has its positions and speeds at both. Where cubics need more than a limit, the line is planned to be gone
slower there; what is left of that, all of it is slowed down for.
"""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from typing import NamedTuple

import numpy as np

from kivant.core.motion.lines.checks import excesses, fewer, motion_along, offs
from kivant.core.motion.lines.cubic_course import Cubics, course_along
from kivant.core.motion.lines.easing import eased
from kivant.core.motion.lines.limits import LineLimits
from kivant.core.motion.lines.line import Line
from kivant.core.motion.lines.line_rates import Places, Rates, rates_along
from kivant.core.motion.lines.settling import Tried, settled
from kivant.core.motion.segment import Reals
from kivant.core.motion.speed_course import Course

TOLERANCE_MM = 0.05
"""How far a tool may be off its line where nothing is said."""

_PLACES = (128, 256, 512, 1024, 2048)
_CLOSE = 0.7  # of the tolerance, half way between places
_ENOUGH = 1.005  # times as slow as planned: the cubics are close enough to what was planned
_GENTLY = 1.5  # times as slow, where accelerations change gently
_WORTH = 0.97  # of the time that a line takes: if it takes less in more places, still more are tried
_SINGULAR = 4.0  # times as slow as on most of its way: the line comes near a singular place
_TINY = 1e-12


class LineError(Exception):
    """A line cannot be kept to; the text says why."""


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


def straight(
    line: Line, limits: LineLimits, factor: float, tolerance: float, checkpoint: Callable[[], None] = lambda: None
) -> Straight:
    """Return how axes bring a tool along a line, at speeds scaled by a factor and off it by no more than a tolerance.

    `checkpoint` is called now and then; what it raises ends the work.

    Raises
    ------
    LineError
        If the tolerance is too small for it.
    UnreachableError
        If the line leaves what lengths and limits allow.
    """
    if line.length < _TINY:
        return Straight(0.0, {axis: line.begin[axis] for axis in line.axes}, {axis: [] for axis in line.axes}, 1.0, ())
    cubics, ceilings, share, _slower = _fastest(line, limits, factor, tolerance, checkpoint)
    if not np.isfinite(limits.jerk).any():  # where it is, accelerations go on from each to the next
        cubics = fewer(line, cubics, limits, factor, _CLOSE * tolerance, checkpoint)
        cubics = cubics.slower(float(excesses(cubics, motion_along(line, cubics), limits, factor).max()))
    usual = float(np.median(np.interp(np.linspace(0, 1, 201), share, ceilings)))
    low = int(np.argmin(ceilings[1:-1])) + 1
    where = tuple(float(value) for value in line.start + share[low] * line.way)
    return Straight(
        float(cubics.times.sum()), {axis: float(cubics.last[-1, k]) for k, axis in enumerate(line.axes)},
        {axis: course_along(cubics, k) for k, axis in enumerate(line.axes)},
        float(ceilings[low]) / usual if usual else 1.0, where,
    )  # fmt: skip


class _Laid(NamedTuple):
    """Cubics along a line, by how much rates are bounded at shares of it, and how far they are from what was planned.

    ``slower`` is how many times as slow the first ones had to be.
    """

    cubics: Cubics
    ceilings: Reals
    share: Reals
    slower: float

    @property
    def seconds(self) -> float:
        """How long they take, s."""
        return float(self.cubics.times.sum())


def _fastest(line: Line, limits: LineLimits, factor: float, tolerance: float, checkpoint: Callable[[], None]) -> _Laid:
    """Return the fastest cubics along a line, with start speeds or without."""
    best = _within(line, limits, factor, tolerance, checkpoint)
    if limits.start_speed.any() and best.slower > _enough(limits):
        # Beside the centre of a turntable, axes could not go on at once from what they jump to.
        with suppress(LineError):
            other = _within(line, limits.from_rest(), factor, tolerance, checkpoint)
            best = min(best, other, key=lambda one: one.seconds)
    return best


def _enough(limits: LineLimits) -> float:
    """Return how many times as slow as planned cubics may be, so that more places would not be faster."""
    return _GENTLY if np.isfinite(limits.jerk).any() else _ENOUGH


def _within(line: Line, limits: LineLimits, factor: float, tolerance: float, checkpoint: Callable[[], None]) -> _Laid:
    """Return cubics along a line within all limits, looked at in as few places as will do."""
    best: _Laid | None = None
    for count in _PLACES:
        one, before = _laid(line, limits, factor, count, checkpoint), best
        checkpoint()
        off = float(offs(line, motion_along(line, one.cubics).places).max())
        close = off <= _CLOSE * tolerance
        if (close or (count == _PLACES[-1] and off <= tolerance)) and (best is None or one.seconds < best.seconds):
            best = one
        if close and (one.slower <= _enough(limits) or (before is not None and one.seconds > _WORTH * before.seconds)):
            break
    if best is None:
        raise off_line(line, off, tolerance)
    return best


def off_line(line: Line, off: float, tolerance: float) -> LineError:
    """Return why a tool cannot be brought so far off its line."""
    return LineError(f"The tool would be {off:.2g} {line.tool.unit} off this line, more than {tolerance:g}.")


def cubics_along(
    line: Line, limits: LineLimits, factor: float, tolerance: float, checkpoint: Callable[[], None]
) -> Cubics:
    """Return how axes go along a line, before cubics are joined where fewer will do.

    Raises
    ------
    LineError, UnreachableError
        As `straight` does.
    """
    return _fastest(line, limits, factor, tolerance, checkpoint).cubics


def _laid(line: Line, limits: LineLimits, factor: float, count: int, checkpoint: Callable[[], None]) -> _Laid:
    """Return cubics along a line within all limits, looked at in so many places.

    Where cubics need more than was planned, the line is planned to be gone slower there.
    """
    share = line.places(count)
    places, at = Places(share, *line.slopes(share)), line.at(share)
    planned = rates_along(line, limits, factor, places)
    if np.isfinite(limits.jerk).any():
        cubics, slower = eased(line, limits, factor, places, checkpoint)
        return _Laid(cubics, planned.ceilings, share, slower)

    def tried(laid: Rates) -> Tried:
        checkpoint()
        cubics = Cubics.through(at, places.slopes * laid.rates[:, None], laid.times)
        return Tried(laid, cubics, excesses(cubics, motion_along(line, cubics), limits, factor))

    first = tried(planned)
    cubics = settled(first, lambda slack: tried(rates_along(line, limits, factor, places, slack)), _ENOUGH)
    return _Laid(cubics, planned.ceilings, share, first.slowness)
