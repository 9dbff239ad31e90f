"""The course of the tool over a plan, and what it can reach: points for a picture."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from kivant.core.machine import Axis, Machine
from kivant.core.machine.tool import Tool
from kivant.core.motion.plan import Plan
from kivant.core.motion.segment import Reals
from kivant.desktop.kit.figures import nice_span

_POINTS = 1500  # of the course
_CELLS = 28  # of the reach, along each axis
_TICKS = 24  # of equal time along the course, about
_WIDE = {"deg": 180.0, "mm": 100.0}  # to either side, of an axis without limits


class Course(NamedTuple):
    """Where the tool is over time: times, s, shape (n,), and places, shape (n, coordinates).

    ``speeds`` are those between two of them, as shares of the greatest; ``ticks`` are places of equal time, ``apart_s``
    how far apart, s.
    """

    times_s: Reals
    places: Reals
    speeds: Reals
    ticks: Reals
    apart_s: float


def course_of(plan: Plan, tool: Tool) -> Course:
    """Return the course of the tool over a plan."""
    times = np.linspace(0.0, plan.duration, _POINTS)
    places = places_at(plan, tool, times)
    rates = np.sqrt((np.diff(places, axis=0) ** 2).sum(axis=1))
    top = float(rates.max(initial=0.0))
    apart = nice_span(plan.duration / _TICKS) if plan.duration else 1.0
    ticks = np.arange(0.0, plan.duration + apart / 2, apart)
    return Course(times, places, rates / top if top else rates, places_at(plan, tool, ticks), apart)


def places_at(plan: Plan, tool: Tool, times_s: Reals) -> Reals:
    """Return where the tool is at times, shape (times, coordinates)."""
    at = [axis.ideal(times_s) / float(axis.steps_per_unit) for axis in plan.axes]
    return np.stack(np.broadcast_arrays(*tool.place(at, np)), axis=-1)


def reach_of(machine: Machine, tool: Tool) -> NDArray[np.float64]:
    """Return the reach seen from above: corners of cells of the two axes that turn the tool, shape (n, n, 2)."""
    first, second = [role for role in tool.axes if role != "z"][:2]
    spans = [_span(machine.axes[tool.axes[role]]) for role in (first, second)]
    grid = np.meshgrid(*(np.linspace(low, high, _CELLS) for low, high in spans), indexing="ij")
    at: list[Reals] = [np.zeros_like(grid[0]) for _ in machine.axes]
    at[tool.axes[first]], at[tool.axes[second]] = grid
    return np.stack(tool.place(at, np)[:2], axis=-1)


def _span(axis: Axis) -> tuple[float, float]:
    wide = _WIDE[axis.unit]
    low, high = axis.limits.min, axis.limits.max
    begin = float(low) if low is not None else (float(high) - 2 * wide if high is not None else -wide)
    return begin, float(high) if high is not None else begin + 2 * wide
