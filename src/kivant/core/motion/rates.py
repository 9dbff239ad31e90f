"""Rates: what one axis can do in steps and seconds, by its limits, its driver and the board."""

from __future__ import annotations

from dataclasses import dataclass

from kivant.core.drive.drivers import pulse_rate_limit
from kivant.core.machine.parts import Axis, Machine
from kivant.core.travel.conversion import steps_per_unit


@dataclass(frozen=True, slots=True)
class Rates:
    """What one axis can do, in one unit of distance (steps here) and seconds; all positive, start may be 0."""

    speed: float
    acceleration: float
    deceleration: float
    start_speed: float


def pulse_rate(machine: Machine, axis: Axis) -> float:
    """Return the fastest steps that board and driver allow the axis, in steps/s."""
    board = machine.board
    return min(board.max_pulse_hz, float(board.tick_hz), pulse_rate_limit(axis.driver))


def rates_of(machine: Machine, axis: Axis) -> Rates:
    """Return what an axis can do, in steps and seconds: its limits, and the pulses that can be made."""
    ratio, limits = float(steps_per_unit(axis)), axis.limits
    speed = min(limits.speed * ratio, pulse_rate(machine, axis))
    return Rates(speed, limits.acceleration * ratio, limits.deceleration * ratio, limits.start_speed * ratio)


def ramp_time_s(axis: Axis) -> float:
    """Return how long the axis takes from its start speed to its speed, s."""
    limits = axis.limits
    return max(limits.speed - limits.start_speed, 0.0) / limits.acceleration
