"""Cubics along a line held against its limits and its tolerance, and made fewer where both allow it."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from kivant.core.motion.cubic_course import Cubics
from kivant.core.motion.line_limits import LineLimits
from kivant.core.motion.segment import Reals
from kivant.core.motion.tool_line import Line

_LOOKS = np.linspace(0.0, 1.0, 5)  # of the time of a cubic, at which the tool is looked at
_HALVINGS = 4
_SAME = 1.0005  # times as slow: what fewer cubics may take
_BESIDE, _LEAST_S = 1e-3, 1e-6  # of the time of a cubic, and s: how far instants beside one are from it
_TINY = 1e-12


class ToolMotion(NamedTuple):
    """Where the tool is at instants of each cubic, shape (cubics, looks, coordinates), and its speeds and rates there.

    Those are central differences: see `kivant.core.motion.tool_pace`.
    """

    places: Reals
    speeds: Reals
    rates: Reals


def tool_motion(line: Line, cubics: Cubics) -> ToolMotion:
    """Return what the tool does along cubics."""
    at, speeds, rates = cubics.inside(_LOOKS)
    h = np.maximum(_BESIDE * cubics.times, _LEAST_S)[:, None, None]
    earlier, now, later = (_places(line, at + sign * h * speeds + abs(sign) * h * h / 2 * rates) for sign in (-1, 0, 1))
    speed = np.sqrt((((later - earlier) / (2 * h)) ** 2).sum(axis=2))
    return ToolMotion(now, speed, np.sqrt((((later - 2 * now + earlier) / h**2) ** 2).sum(axis=2)))


def _places(line: Line, at: Reals) -> Reals:
    every: list[Reals | float] = [*line.begin]
    for k, axis in enumerate(line.axes):
        every[axis] = at[:, :, k]
    return np.stack(np.broadcast_arrays(*line.tool.place(every, np), at[:, :, 0])[:-1], axis=-1)


def offs(line: Line, places: Reals) -> Reals:
    """Return how far the tool is off its line in each cubic at most, shape (cubics,)."""
    beside = places - line.start
    along = (beside @ line.way) / max(line.length**2, _TINY)
    return np.asarray(np.sqrt(((beside - along[..., None] * line.way) ** 2).sum(axis=2)).max(axis=1))


def excesses(cubics: Cubics, tool: ToolMotion, limits: LineLimits, factor: float) -> Reals:
    """Return how many times as slow each cubic has to be, so that axes and tool keep to all limits; at least 1."""
    speeds, jerks = cubics.greatest_speeds(), np.abs(cubics.jerks())
    up, down = limits.rates(speeds)
    mean, turns = cubics.last - cubics.first, cubics.begin * cubics.end < 0
    rates = [
        np.abs(rate) / np.where(turns, np.minimum(up, down), np.where(rate * mean >= 0, up, down))
        for rate in cubics.rates()
    ]
    found = [
        (speeds / limits.speeds(factor)).max(axis=1),
        tool.speeds.max(axis=1) / (factor * limits.tool_speed),
        np.sqrt(np.maximum(np.maximum(*rates).max(axis=1), tool.rates.max(axis=1) / limits.tool_acceleration)),
        np.cbrt((jerks / limits.jerk).max(axis=1)),
    ]
    return np.asarray(np.maximum(np.max(found, axis=0), 1.0))


def fewer(line: Line, cubics: Cubics, limits: LineLimits, factor: float, tolerance: float) -> Cubics:
    """Return fewer cubics, where one in the place of two keeps to the limits and to the tolerance, too."""
    for _ in range(_HALVINGS):
        before = len(cubics.times)
        for first in (1, 2):
            inner = np.arange(first, len(cubics.times), 2)
            if not len(inner):
                continue
            joined = cubics.joined(inner)
            tool = tool_motion(line, joined)
            good = (offs(line, tool.places) <= tolerance) & (excesses(joined, tool, limits, factor) <= _SAME)
            cubics = cubics.with_joined(inner[good])
        if len(cubics.times) == before:
            break
    return cubics
