"""What each supply gives over a plan: the currents of all axes that it feeds, and what they draw afterwards."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kivant.core.drive.copper import at_rest, draw_at, draws, greatest_draw, supply_volts
from kivant.core.machine.parts import Machine
from kivant.core.motion.plan import AxisPlan, Plan

Reals = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Feed:
    """A supply, or a voltage that drivers have without naming a supply, with the axes that it feeds.

    Parameters
    ----------
    name : str
        The supply's, or the voltage in words.
    place : int or None
        Its index in the machine's supplies, None for one that is not named.
    volts : float or None
    max_a : float or None
    axes : tuple of int
        Indices of the axes.
    """

    name: str
    place: int | None
    volts: float | None
    max_a: float | None
    axes: tuple[int, ...]


def feeds(machine: Machine) -> tuple[Feed, ...]:
    """Return every supply, and behind them the voltages that drivers have without one."""
    found = [
        Feed(s.name, k, s.volts, s.max_a, tuple(i for i, a in enumerate(machine.axes) if a.driver.supply == s.name))
        for k, s in enumerate(machine.supplies or ())
    ]
    loose: dict[float | None, list[int]] = {}
    for i, axis in enumerate(machine.axes):
        if axis.driver.supply is None:
            loose.setdefault(axis.driver.supply_v, []).append(i)
    for volts, axes in loose.items():
        found.append(Feed("no supply" if volts is None else f"{volts:g} V", None, volts, None, tuple(axes)))
    return tuple(found)


def greatest_current(machine: Machine, feed: Feed) -> tuple[float, tuple[str, ...]]:
    """Return the most that a supply must give if all its axes draw the most at once, A, and whose draw is not known."""
    total, unknown = 0.0, []
    for i in feed.axes:
        axis = machine.axes[i]
        draw = greatest_draw(axis, supply_volts(machine, axis)).supply_a
        if draw is None:
            unknown.append(axis.name)
        total += draw or 0.0
    return total, tuple(unknown)


def current_over(plan: Plan, feed: Feed, count: int) -> tuple[Reals, Reals]:
    """Return the current of a supply over a plan.

    Returns
    -------
    begins_s : float64 array, shape (count,)
        Where each of `count` equal spans of the plan begins.
    mean_a : float64 array, shape (count,)
        The mean current in each, A; axes whose draw is not known count for nothing.
    """
    edges = np.linspace(0.0, plan.duration, count + 1)
    total = np.zeros(count)
    for i in feed.axes:
        total += _axis_current(plan, plan.axes[i], edges)
    return edges[:-1], total


def current_after(plan: Plan, feed: Feed) -> float:
    """Return what a supply gives once a plan has ended, A."""
    total = 0.0
    for i in feed.axes:
        planned = plan.axes[i]
        draw = draw_at(
            planned.axis, supply_volts(plan.machine, planned.axis), planned.final_steps - planned.start_steps
        )
        total += at_rest(planned.axis, draw).supply_a or 0.0
    return total


def _axis_current(plan: Plan, planned: AxisPlan, edges: Reals) -> Reals:
    """Return the mean over each span between `edges`: over the rows from its first to its last."""
    table = draws(planned.axis, supply_volts(plan.machine, planned.axis))
    currents = np.array([draw.supply_a or 0.0 for draw in table])
    if len(currents) == 1:
        return np.full(len(edges) - 1, currents[0])
    rows = planned.train.steps_at(edges) - planned.start_steps
    low, high = np.minimum(rows[:-1], rows[1:]), np.maximum(rows[:-1], rows[1:])
    count = len(currents)
    sums = np.concatenate(([0.0], np.cumsum(currents)))

    def up_to(row: NDArray[np.int64]) -> Reals:
        found: Reals = (row // count) * sums[-1] + sums[row % count]
        return found

    mean: Reals = (up_to(high + 1) - up_to(low)) / (high + 1 - low)
    return mean
