"""Trial moves: one axis by itself over a distance, whatever the routines do."""

from __future__ import annotations

from collections.abc import Callable
from decimal import Decimal
from typing import Literal, NamedTuple

import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import NDArray

from kivant.core.kept import kept
from kivant.core.machine.parts import Machine, Routine, alone
from kivant.core.motion.blocks import Move
from kivant.core.motion.builder import plan
from kivant.core.motion.plan import AxisPlan, Plan, PlanError
from kivant.core.motion.rates import pulse_rate
from kivant.core.path import Path

DEFAULT_DISTANCE = {"deg": Decimal(90), "mm": Decimal(40)}
MOST_BYTES = 50_000_000


class Phase(NamedTuple):
    """A part of a move in which the speed rises, stays or falls; s (also from the begin of the move) and axis units."""

    name: Literal["acceleration", "cruise", "deceleration"]
    begin_s: float
    seconds: float
    distance: float


class TrialMove(Struct, frozen=True, dict=True):
    """A move of one axis from 0 by some distance, and the figures a maker asks about it.

    Of a change of speed under way, `change` are the two speeds, axis units/s.
    """

    plan: Plan
    distance: Decimal
    pulse_limit_hz: float
    change: tuple[float, float] | None = None

    @property
    def axis(self) -> AxisPlan:
        """The plan of the axis."""
        return self.plan.axes[0]

    @property
    def begin_s(self) -> float:
        """When it begins to move."""
        return self.plan.blocks[0].begin_s if self.plan.blocks else 0.0

    @property
    def seconds(self) -> float:
        """How long it moves, s."""
        return self.plan.blocks[-1].end_s - self.begin_s if self.plan.blocks else 0.0

    @kept
    def corners(self) -> tuple[tuple[float, float], ...]:
        """The corners of the speed curve, two for each piece of it: s from its begin, and axis units/s."""
        times, speeds = self.axis.train.corners(bends=12)
        ratio = float(self.axis.steps_per_unit)
        return tuple((float(t) - self.begin_s, abs(float(v)) / ratio) for t, v in zip(times, speeds, strict=True))

    @kept
    def phases(self) -> tuple[Phase, ...]:
        """Each phase in order; pieces of one kind that follow one another are one."""
        times, speeds, _rates = self.axis.train.course()
        ways = np.abs(np.diff(self.axis.ideal(times))[:, 0]) / float(self.axis.steps_per_unit)
        found: list[Phase] = []
        for (begin, end), (first, last), way in zip(
            times.tolist(), np.abs(speeds).tolist(), ways.tolist(), strict=True
        ):
            if end - begin <= 1e-12 * end:
                continue  # as short as rounding makes one
            rises, falls = last > first * (1 + 1e-12), last < first * (1 - 1e-12)
            name: Literal["acceleration", "cruise", "deceleration"]
            name = "acceleration" if rises else "deceleration" if falls else "cruise"
            before = found.pop() if found and found[-1].name == name else Phase(name, begin - self.begin_s, 0.0, 0.0)
            found.append(Phase(name, before.begin_s, end - self.begin_s - before.begin_s, before.distance + way))
        return tuple(found)

    @kept
    def intervals_s(self) -> NDArray[np.float64]:
        """The time from each step to the next, s, shape (steps - 1,)."""
        return np.diff(self.axis.instants)


def trial_move(
    machine: Machine, index: int, distance: Decimal, checkpoint: Callable[[], None] = lambda: None
) -> TrialMove:
    """Return the move of axis `index` by `distance`, its end stops left out; `checkpoint` as for `plan`.

    Raises
    ------
    PlanError
        If it would take too many steps or too long.
    """
    axis = machine.axes[index]
    free = replace(axis, limits=replace(axis.limits, min=None, max=None))
    moves = (Move(by={axis.name: distance}),) if distance else ()
    routine = Routine(name="trial move", blocks=moves)
    try:
        made = plan(alone(machine, free), routine, most_bytes=MOST_BYTES, trusted=True, checkpoint=checkpoint)
    except PlanError as error:
        raise PlanError(*(replace(fault, place=_of_axis(fault.place, index)) for fault in error.faults)) from None
    return TrialMove(made, distance, pulse_rate(machine, axis))


def _of_axis(place: Path | str, index: int) -> Path | str:
    """Return the place in the whole machine of one in a machine of the axis alone."""
    return Path(("axes", index, *place[2:])) if isinstance(place, Path) and place.axis == 0 else place
