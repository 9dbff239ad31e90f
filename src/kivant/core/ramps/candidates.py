"""Candidates: one move of an axis with each shape of ramp, and what its motor makes of it."""

from __future__ import annotations

from collections.abc import Callable
from decimal import Decimal
from typing import Literal

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from kivant.core.errors import Fault, KivantError
from kivant.core.machine.parts import Axis, Machine, ShapeName
from kivant.core.machine.ramps import with_shape
from kivant.core.motion.segment import Reals
from kivant.core.motion.trial import TrialMove, trial_move
from kivant.core.motor.demand import Demand, demand_of, demand_of_steps
from kivant.core.motor.following import follow_steps
from kivant.core.motor.spare import spare_of
from kivant.core.rotor_motion import Motion
from kivant.core.travel.conversion import steps_per_unit

Kind = ShapeName | Literal["even_delays"]
KINDS: tuple[Kind, ...] = ("none", "even_delays", "trapezoid", "s_curve", "torque")
"""In the order in which people come to them."""

MOST_STEPS = 1_000_000
"""Longest move whose rotor is simulated."""

Checkpoint = Callable[[], None]
"""Called now and then; what it raises ends the work."""


class Candidate(Struct, frozen=True):
    """A move with one kind of ramp.

    Parameters
    ----------
    kind : str
    seconds, peak_speed : float
        How long it moves, and how fast at the most, s and axis units/s.
    curve : arrays of shape (n,)
        Times from the begin, s, and speeds, axis units/s.
    demand : Demand
    motion : Motion
        What the simulated rotor makes of it.
    """

    kind: Kind
    seconds: float
    peak_speed: float
    curve: tuple[Reals, Reals]
    demand: Demand
    motion: Motion


def candidate_of(
    machine: Machine, index: int, distance: Decimal, kind: Kind, checkpoint: Checkpoint = lambda: None
) -> Candidate:
    """Return the move of an axis from 0 by a distance with one kind of ramp.

    Raises
    ------
    PlanError
        If there is no such move, such as one along the torque of a motor that cannot move its load.
    """
    if kind == "even_delays":
        return _even_delays(machine, index, distance, checkpoint)
    axis = with_shape(machine.axes[index], kind)
    trial = trial_move(with_axis(machine, index, axis), index, distance, checkpoint)
    return judged(trial, kind, checkpoint)


def judged(trial: TrialMove, kind: Kind, checkpoint: Checkpoint = lambda: None) -> Candidate:
    """Return a trial move with what its motor makes of it.

    Raises
    ------
    KivantError
        If it has more steps than are simulated, or its rotor cannot be.
    """
    planned, machine = trial.axis, trial.plan.machine
    if planned.steps > MOST_STEPS:
        message = f"A move of {planned.steps:,} steps is not simulated; up to {MOST_STEPS:,} are."
        raise KivantError(Fault("move", message, "Try a shorter distance."))
    times, speeds = planned.train.corners(bends=8)
    curve = times - trial.begin_s, np.abs(speeds) / float(planned.steps_per_unit)
    demand = demand_of(spare_of(machine, planned.axis), planned)
    motion = follow_steps(machine, planned.axis, planned.instants, planned.signs, checkpoint=checkpoint)
    return Candidate(
        kind, trial.seconds, planned.peak_speed, curve, demand._replace(times_s=demand.times_s - trial.begin_s), motion
    )


def with_axis(machine: Machine, index: int, axis: Axis) -> Machine:
    """Return a machine with another axis in a place."""
    return replace(machine, axes=(*machine.axes[:index], axis, *machine.axes[index + 1 :]))


def even_delays(count: int, first_s: float, least_s: float, ramp: int) -> Reals:
    """Return the instants of steps, s, from whose delay a fixed amount is taken at every step, and added at the end.

    That is how a ramp is often written by hand: even steps of the delay are ever larger steps of the speed.
    """
    ramp = min(ramp, (count - 1) // 2)
    rising = np.linspace(first_s, least_s, ramp + 1)[:-1] if ramp else np.zeros(0)
    delays = np.concatenate((rising, np.full(count - 1 - 2 * ramp, least_s), rising[::-1]))
    found: Reals = np.concatenate(([0.0], np.cumsum(delays)))
    return found


def _even_delays(machine: Machine, index: int, distance: Decimal, checkpoint: Checkpoint) -> Candidate:
    """Return the move with as many steps of ramp, from the same first delay to the same last, as its trapezoid has."""
    axis = with_shape(machine.axes[index], "trapezoid")
    trial = trial_move(with_axis(machine, index, axis), index, distance)
    planned, gaps = trial.axis, trial.intervals_s
    if not len(gaps):
        return replace(judged(trial, "trapezoid", checkpoint), kind="even_delays")
    least = float(gaps.min())
    ramp = int(np.argmax(gaps <= least * (1 + 1e-9)))
    instants = even_delays(planned.steps, float(gaps[0]), least, ramp)
    sign, ratio = int(planned.signs[0]), float(steps_per_unit(axis))
    motion = follow_steps(machine, axis, instants, planned.signs, checkpoint=checkpoint)
    demand = demand_of_steps(spare_of(machine, axis), axis, instants, sign)
    middles, speeds = (instants[1:] + instants[:-1]) / 2, 1 / np.diff(instants) / ratio
    return Candidate("even_delays", float(instants[-1]), float(speeds.max()), (middles, speeds), demand, motion)


def candidates_of(
    machine: Machine, index: int, distance: Decimal, take: Callable[[Kind, Candidate | None, str], None],
    checkpoint: Checkpoint = lambda: None,
) -> None:  # fmt: skip
    """Make every candidate in turn and hand it to `take`, with the reason where there is none."""
    for kind in KINDS:
        checkpoint()
        try:
            take(kind, candidate_of(machine, index, distance, kind, checkpoint), "")
        except KivantError as error:
            take(kind, None, error.faults[0].said)
