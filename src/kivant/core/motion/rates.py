"""Rates: what one axis can do in steps and seconds, by its limits, its driver and the board."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Generic, TypeVar

from kivant.core.drive.drivers import pulse_rate_limit
from kivant.core.machine.parts import Axis, Machine
from kivant.core.travel.conversion import steps_per_unit

Real = TypeVar("Real")


@dataclass(frozen=True, slots=True)
class Rates(Generic[Real]):
    """What an axis can do, in one unit of distance (steps here) and seconds; all positive, start may be 0.

    Parameters
    ----------
    speed : float, or array for several axes
        As the maker wishes it.
    acceleration, deceleration, start_speed : the same
    pulse_rate : the same
        What driver and board can take, whatever is wished.
    """

    speed: Real
    acceleration: Real
    deceleration: Real
    start_speed: Real
    pulse_rate: Real


def pulse_rate(machine: Machine, axis: Axis) -> float:
    """Return the fastest steps that board and driver allow the axis, in steps/s."""
    board = machine.board
    return min(board.max_pulse_hz, float(board.tick_hz), pulse_rate_limit(axis.driver))


def rates_of(machine: Machine, axis: Axis) -> Rates[float]:
    """Return what an axis can do, in steps and seconds: its limits, and the pulses that can be made."""
    ratio, limits = float(steps_per_unit(axis)), axis.limits
    return Rates(
        limits.speed * ratio,
        limits.acceleration * ratio,
        limits.deceleration * ratio,
        limits.start_speed * ratio,
        pulse_rate(machine, axis),
    )


def ramp_time_s(axis: Axis) -> float:
    """Return how long the axis takes from its start speed to its speed, s."""
    limits = axis.limits
    return max(limits.speed - limits.start_speed, 0.0) / limits.acceleration
