"""Rates: what one axis can do in steps and seconds, by its limits, its driver and the board."""

from __future__ import annotations

import math
from dataclasses import dataclass

from kivant.core.drive.drivers import pulse_rate_limit
from kivant.core.machine.parts import Axis, Machine
from kivant.core.travel.conversion import steps_per_unit


@dataclass(frozen=True, slots=True)
class Rates:
    """What one axis can do, in one unit of distance (steps here) and seconds; all positive, start may be 0.

    Parameters
    ----------
    speed : float
        As the maker wishes it.
    acceleration, deceleration, start_speed : float
    pulse_rate : float, optional
        What driver and board can take, whatever is wished.
    """

    speed: float
    acceleration: float
    deceleration: float
    start_speed: float
    pulse_rate: float = math.inf

    def top_speed(self, factor: float = 1.0) -> float:
        """Return the greatest speed where the wished one is scaled by `factor`."""
        return min(factor * self.speed, self.pulse_rate)


def pulse_rate(machine: Machine, axis: Axis) -> float:
    """Return the fastest steps that board and driver allow the axis, in steps/s."""
    board = machine.board
    return min(board.max_pulse_hz, float(board.tick_hz), pulse_rate_limit(axis.driver))


def rates_of(machine: Machine, axis: Axis) -> Rates:
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
