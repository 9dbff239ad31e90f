"""Rates: what one axis can do in steps and seconds, by its limits, its driver and the board."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from typing import NamedTuple

from kivant.core.drive.drivers import driver_kind, pulse_rate_limit
from kivant.core.machine.parts import Axis, Board, Machine, shape_of
from kivant.core.travel.conversion import steps_per_unit

_ROUNDED = 1e-12  # of the edge of a band


class Rates(NamedTuple):
    """What an axis can do, in one unit of distance (steps here) and seconds; all positive, start may be 0.

    Parameters
    ----------
    speed : float
        As the maker wishes it.
    acceleration, deceleration, start_speed : the same
    jerk : the same
        Infinite where the acceleration may change at once.
    pulse_rate : the same
        What driver and board can take, whatever is wished.
    """

    speed: float
    acceleration: float
    deceleration: float
    start_speed: float
    jerk: float
    pulse_rate: float


def pulse_rate(machine: Machine, axis: Axis) -> float:
    """Return the fastest steps that board and driver allow the axis, in steps/s."""
    board = machine.board
    return min(board.max_pulse_hz, float(board.tick_hz), pulse_rate_limit(axis.driver))


Bands = Sequence[Sequence[float]]
"""Of speeds, (low, high), in which an axis is never to stay."""


def bands_of(axis: Axis) -> Bands:
    """Return the bands of speed that an axis avoids, steps/s."""
    ratio = float(steps_per_unit(axis))
    return [(low * ratio, high * ratio) for low, high in axis.limits.avoid or ()]


def outside_bands(speed: float, bands: Bands) -> float:
    """Return a speed, lowered to the edge of a band in which it lies."""
    return next((low for low, high in bands if low < speed < high), speed)


def path_outside_bands(speed: float, shares: Iterable[tuple[float, Bands]]) -> float:
    """Return the speed of a path, lowered to the edge of any band in which it would keep an axis.

    `shares` are the way that each axis goes along the path, without sign, and its bands.
    """
    own = [(way, low, high) for way, bands in shares for low, high in bands]
    for _ in own:  # at the edge of one band, another axis may be within its own
        for way, low, high in own:
            if low * (1 + _ROUNDED) < speed * way < high:
                speed = low / way
    return speed


class Pauses(NamedTuple):
    """What a driver needs between its lines, s: enabled before all, before the first step, and where it turns round."""

    lead_s: float
    set_up_s: float
    gap_s: float


def pauses_of(machine: Machine, axis: Axis) -> Pauses:
    """Return what an axis's driver needs on its board."""
    return _known(machine, axis)[2]


def rates_of(machine: Machine, axis: Axis) -> Rates:
    """Return what an axis can do, in steps and seconds: its limits by its shape, and the pulses that can be made."""
    return _known(machine, axis)[1]


def _known(machine: Machine, axis: Axis) -> tuple[Board, Rates, Pauses]:
    """Return what an axis remembers of itself on a board: it is asked for with every plan, and cannot change."""
    known: tuple[Board, Rates, Pauses] | None = axis.__dict__.get("on_board")
    if known is None or known[0] is not machine.board:
        kind, driver, rates = driver_kind(axis.driver), axis.driver, _rates_of(machine, axis)
        gap_s = kind.reversal_gap_s(driver, rates.pulse_rate)
        known = machine.board, rates, Pauses(kind.enable_lead_s(driver), kind.first_set_up_s(driver), gap_s)
        axis.__dict__["on_board"] = known
    return known


def _rates_of(machine: Machine, axis: Axis) -> Rates:
    ratio, limits, most = float(steps_per_unit(axis)), axis.limits, pulse_rate(machine, axis)
    shape = shape_of(limits)
    if shape == "none":
        return Rates(limits.speed * ratio, math.inf, math.inf, math.inf, math.inf, most)
    return Rates(
        limits.speed * ratio,
        limits.acceleration * ratio,
        limits.deceleration * ratio,
        limits.start_speed * ratio,
        limits.jerk * ratio if shape == "s_curve" and limits.jerk is not None else math.inf,
        most,
    )


def ramp_time_s(axis: Axis) -> float | None:
    """Return how long the axis takes from its start speed to its speed, s; None where its torque tells it."""
    limits, shape = axis.limits, shape_of(axis.limits)
    gain = max(limits.speed - limits.start_speed, 0.0)
    if shape == "s_curve" and limits.jerk is not None:
        change = min(limits.acceleration / limits.jerk, math.sqrt(gain / limits.jerk))
        return change + gain / (change * limits.jerk) if change else 0.0
    return {"none": 0.0, "torque": None}.get(shape, gain / limits.acceleration)
