"""What each supply gives over a plan: the currents of all axes that it feeds, and what they draw afterwards."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from kivant.core.drive.copper import at_rest, draw_at, draws, supply_volts
from kivant.core.drive.feeds import Feed
from kivant.core.motion.plan import AxisPlan, Plan

Reals = NDArray[np.float64]


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
