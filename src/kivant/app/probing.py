"""Trying out one axis by itself: a move of a given distance, whatever the routines do."""

from __future__ import annotations

from dataclasses import dataclass, replace
from decimal import Decimal

import numpy as np
from numpy.typing import NDArray

from kivant.core.findings import pulse_rate
from kivant.core.machine import Machine, Move, Routine
from kivant.core.plan import AxisPlan, Plan, plan

DEFAULT_DISTANCE = {"deg": Decimal(90), "mm": Decimal(40)}


@dataclass(frozen=True, slots=True)
class Probe:
    """A move of one axis from 0 by some distance, and the figures a maker asks about it."""

    plan: Plan
    distance: Decimal
    pulse_limit_hz: float

    @property
    def axis(self) -> AxisPlan:
        """The plan of the axis."""
        return self.plan.axes[0]

    @property
    def begin_s(self) -> float:
        """When it begins to move."""
        return self.plan.blocks[0].begin_s if self.plan.blocks else 0.0

    def phases(self) -> tuple[tuple[str, float, float], ...]:
        """Return each phase (up, on, down) with its duration in s and its distance in axis units."""
        times, speeds = self.axis.train.corners()
        ratio = float(self.axis.steps_per_unit)
        found = []
        for k in range(0, len(times), 2):
            a, b = abs(speeds[k]), abs(speeds[k + 1])
            name = "up" if b > a * (1 + 1e-12) else "down" if b < a * (1 - 1e-12) else "on"
            seconds = float(times[k + 1] - times[k])
            found.append((name, seconds, (a + b) / 2 * seconds / ratio))
        return tuple(found)

    def intervals_s(self) -> NDArray[np.float64]:
        """Return the time from each step to the next, s, shape (steps - 1,)."""
        return np.diff(self.axis.instants)


def probe(machine: Machine, index: int, distance: Decimal) -> Probe:
    """Return the move of axis `index` by `distance`, its end stops left out.

    Raises
    ------
    PlanError
        If it would take too many steps or too long.
    """
    axis = machine.axes[index]
    free = replace(axis, limits=replace(axis.limits, min=None, max=None))
    alone = replace(machine, axes=(free,), routines=())
    moves = (Move(by={axis.name: distance}),) if distance else ()
    made = plan(alone, Routine(name="probe", blocks=moves), most_bytes=50_000_000)
    return Probe(made, distance, pulse_rate(machine, axis))
