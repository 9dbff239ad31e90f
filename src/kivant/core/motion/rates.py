"""Rates: what one axis can do in steps and seconds, by its limits, its driver and the board."""

from __future__ import annotations

import math
from typing import Generic, TypeVar

from msgspec import Struct

from kivant.core.drive.drivers import pulse_rate_limit
from kivant.core.machine.parts import Axis, Machine, shape_of
from kivant.core.travel.conversion import steps_per_unit

Real = TypeVar("Real")


class Rates(Struct, Generic[Real], frozen=True):
    """What an axis can do, in one unit of distance (steps here) and seconds; all positive, start may be 0.

    Parameters
    ----------
    speed : float, or array for several axes
        As the maker wishes it.
    acceleration, deceleration, start_speed : the same
    pulse_rate : the same
        What driver and board can take, whatever is wished.
    jerk : the same
        Infinite where the acceleration may change at once.
    """

    speed: Real
    acceleration: Real
    deceleration: Real
    start_speed: Real
    pulse_rate: Real
    jerk: Real | float = math.inf


def pulse_rate(machine: Machine, axis: Axis) -> float:
    """Return the fastest steps that board and driver allow the axis, in steps/s."""
    board = machine.board
    return min(board.max_pulse_hz, float(board.tick_hz), pulse_rate_limit(axis.driver))


def rates_of(machine: Machine, axis: Axis) -> Rates[float]:
    """Return what an axis can do, in steps and seconds: its limits by its shape, and the pulses that can be made."""
    ratio, limits, most = float(steps_per_unit(axis)), axis.limits, pulse_rate(machine, axis)
    shape = shape_of(limits)
    if shape == "none":
        return Rates(limits.speed * ratio, math.inf, math.inf, math.inf, most)
    return Rates(
        limits.speed * ratio,
        limits.acceleration * ratio,
        limits.deceleration * ratio,
        limits.start_speed * ratio,
        most,
        limits.jerk * ratio if shape == "s_curve" and limits.jerk is not None else math.inf,
    )


def ramp_time_s(axis: Axis) -> float | None:
    """Return how long the axis takes from its start speed to its speed, s; None where its torque tells it."""
    limits, shape = axis.limits, shape_of(axis.limits)
    gain = max(limits.speed - limits.start_speed, 0.0)
    if shape == "s_curve" and limits.jerk is not None:
        change = min(limits.acceleration / limits.jerk, math.sqrt(gain / limits.jerk))
        return change + gain / (change * limits.jerk) if change else 0.0
    return {"none": 0.0, "torque": None}.get(shape, gain / limits.acceleration)
