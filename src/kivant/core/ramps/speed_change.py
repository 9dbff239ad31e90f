"""A change of speed under way: a ramp between two speeds, with a stretch of each before and behind it."""

from __future__ import annotations

from decimal import Decimal
from fractions import Fraction

import numpy as np

from kivant.core.errors import Fault
from kivant.core.machine.parts import Axis, Machine, Routine, alone, shape_of
from kivant.core.motion.axis_move import axis_moves, cut
from kivant.core.motion.blocks import Move
from kivant.core.motion.plan import AxisPlan, Plan, PlanError, PlannedBlocks
from kivant.core.motion.positions import from_each_to_the_next
from kivant.core.motion.ramp import Ramps, joined
from kivant.core.motion.rates import Rates, pulse_rate, rates_of
from kivant.core.motion.routine import commands
from kivant.core.motion.s_curve import s_curve, way_between
from kivant.core.motion.segment import Reals
from kivant.core.motion.torque_ramp import torque_change
from kivant.core.motion.train import BYTES_PER_STEP, Ends, StepTrain
from kivant.core.motion.trial import MOST_BYTES, TrialMove
from kivant.core.motor.pulling import pulls_of
from kivant.core.path import axis_path
from kivant.core.travel.conversion import steps_per_unit

_BESIDE = 0.25  # of the time of the change: how long each speed is held beside it


def speed_change(machine: Machine, index: int, first: float, last: float) -> TrialMove:
    """Return how axis `index` changes from one speed to another, both in axis units/s, with the ramps of its shape.

    Raises
    ------
    PlanError
        If a speed is beyond the axis's own, both are the same, its shape has no ramp, or it takes too many steps.
    """
    axis = machine.axes[index]
    place = axis_path(index, "limits")
    for speed in (first, last):
        if not 0 <= speed <= axis.limits.speed:
            message = f"{speed:g} {axis.unit}/s is not between 0 and the speed of {axis.name}."
            raise PlanError(Fault(place / "speed", message, f"Stay within 0 and {axis.limits.speed:g} {axis.unit}/s."))
    if first == last or shape_of(axis.limits) == "none":
        why = "Both speeds are the same." if first == last else f"{axis.name} has no ramp: its speed jumps."
        raise PlanError(Fault(place / "shape", why, "Give two speeds, and choose a shape with a ramp."))
    ratio = steps_per_unit(axis)
    change = _change(machine, axis, rates_of(machine, axis), first * float(ratio), last * float(ratio))
    ramps = _between(change, first * float(ratio), last * float(ratio))
    if ramps.places[0, -1] * BYTES_PER_STEP > MOST_BYTES:
        message = f"The change takes {ramps.places[0, -1]:.3g} steps."
        remedy = "Raise the acceleration, or give speeds that differ less."
        raise PlanError(Fault(place / "acceleration", message, remedy))
    return _trial(machine, axis, ramps, (first, last))


def _change(machine: Machine, axis: Axis, rates: Rates, first: float, last: float) -> Ramps:
    """Return the ramp itself, from 0 to its way, in steps and seconds."""
    low, high, rises = min(first, last), max(first, last), last > first
    rate = rates.acceleration if rises else rates.deceleration
    shape = shape_of(axis.limits)
    if shape == "s_curve":
        way = way_between(low, high, rate, float(rates.jerk))
        ends = {"start_speed": first, "end_speed": last}
        return s_curve(np.array([way]), speed=high, acceleration=rate, deceleration=rate, jerk=rates.jerk, **ends)
    if shape == "torque":
        pull = pulls_of(machine, axis)[0]
        top = np.array([min(high, float(pull.speeds[-1]))])
        curve = pull.up if rises else pull.down

        def available(speeds: Reals) -> Reals:
            return np.minimum(np.interp(speeds, pull.speeds, curve), rate)

        return torque_change(np.minimum(np.array([low]), top), top, available, rises=rises)
    seconds = (high - low) / rate
    way = (low + high) / 2 * seconds
    piece, acceleration = np.array([[[seconds]], [[way]]]), np.array([[rate if rises else -rate]])
    return joined(np.array([way]), piece, np.array([[first, last]]), (acceleration, 0.0))


def _between(change: Ramps, first: float, last: float) -> Ramps:
    """Return a change with a stretch of the speed before it and of the one behind it."""
    beside = _BESIDE * float(change.durations_s[0])
    times = np.concatenate(([beside], np.diff(change.breaks_s[0]), [beside]))[None]
    begin, end = float(change.speeds[0, 0]), float(change.speeds[0, -1])
    lengths = np.concatenate(([begin * beside], np.diff(change.places[0]), [end * beside]))[None]
    speeds = np.concatenate(([begin], change.speeds[0], [end]))[None]
    rates = np.concatenate(([0.0], change.accelerations[0], [0.0]))[None]
    jerks = np.concatenate(([0.0], change.jerks[0], [0.0]))[None]
    return joined(lengths.sum(axis=1), np.array((times, lengths)), speeds, (rates, jerks))


def _trial(machine: Machine, axis: Axis, ramps: Ramps, speeds: tuple[float, float]) -> TrialMove:
    """Return the trial of one axis along ramps in steps, from step 0 on."""
    way, seconds = Fraction(float(ramps.places[0, -1])), float(ramps.durations_s[0])
    share = Ramps(np.concatenate((ramps.table[:1], ramps.table[1:] / float(way))))
    positions = from_each_to_the_next((Fraction(0), way))
    moves, _rows = axis_moves(positions, None, 1)
    train = StepTrain(Ends(positions.steps), lambda: cut(moves, share).segments, lambda: moves.counts[0])
    own = alone(machine, axis)
    distance = Decimal(float(way / steps_per_unit(axis)))
    routine = Routine(name="change of speed", blocks=(Move(by={axis.name: distance}),))
    one = np.zeros(1)
    blocks = PlannedBlocks(commands(own, routine, lambda: None).places, one, one + seconds)
    made = Plan(own, routine, 0.0, seconds, blocks, (AxisPlan(axis, steps_per_unit(axis), train),))
    return TrialMove(made, distance, pulse_rate(machine, axis), speeds)
