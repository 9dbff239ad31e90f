"""Cubics along a line held against its limits and its tolerance, and made fewer where both allow it."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from kivant.core.motion.lines.cubic_course import Cubics
from kivant.core.motion.lines.limits import LineLimits
from kivant.core.motion.lines.line import Line
from kivant.core.motion.segment import Reals
from kivant.core.motion.tool_pace import tool_motion

_LOOKS = np.linspace(0.0, 1.0, 5)  # of the time of a cubic, at which the tool is looked at
_HALVINGS = 4
_SAME = 1.0005  # times as slow, or beside the edge of a band: what fewer cubics may be
_BESIDE, _LEAST_S = 1e-3, 1e-6  # of the time of a cubic, and s: how far instants beside one are from it


class ToolMotion(NamedTuple):
    """Places of the tool at instants of cubics, shape (cubics, looks, coordinates), and its speeds and rates there."""

    places: Reals
    speeds: Reals
    rates: Reals


def motion_along(line: Line, cubics: Cubics) -> ToolMotion:
    """Return what the tool does along cubics."""
    beside_s = np.maximum(_BESIDE * cubics.times, _LEAST_S)[:, None, None]
    return ToolMotion(*tool_motion(line.tool, line.begin, line.axes, cubics.inside(_LOOKS), beside_s))


def offs(line: Line, places: Reals) -> Reals:
    """Return how far the tool is off its line in each cubic at most, shape (cubics,)."""
    return np.asarray(line.aside(places).max(axis=1))


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


def keep_outside(cubics: Cubics, limits: LineLimits) -> NDArray[np.bool_]:
    """Return which cubics keep each axis below, or above, every band of speed that it avoids."""
    speeds = np.stack((np.abs(cubics.begin), cubics.turning_speeds(), np.abs(cubics.end)))
    found = np.ones(len(cubics.times), np.bool_)
    for axis, bands in enumerate(limits.avoid):
        own = speeds[:, :, axis]
        for low, high in bands:
            found &= (own <= low * _SAME).all(axis=0) | (own * _SAME >= high).all(axis=0)
    return found


def fewer(
    line: Line, cubics: Cubics, limits: LineLimits, factor: float, tolerance: float, checkpoint: Callable[[], None]
) -> Cubics:
    """Return fewer cubics, where one in the place of two keeps to the limits and to the tolerance, too."""
    for _ in range(_HALVINGS):
        before = len(cubics.times)
        for first in (1, 2):
            inner = np.arange(first, len(cubics.times), 2)
            if not len(inner):
                continue
            checkpoint()
            joined = cubics.joined(inner)
            tool = motion_along(line, joined)
            good = (offs(line, tool.places) <= tolerance) & (excesses(joined, tool, limits, factor) <= _SAME)
            good &= keep_outside(joined, limits)
            cubics = cubics.with_joined(inner[good])
        if len(cubics.times) == before:
            break
    return cubics
