"""Drivers: what turns steps into line levels, and the times it needs.

All times here are whole nanoseconds, the grain in which signals are exported, so that a set-up or hold time
is met exactly and not just to rounding.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kivant.core.machine import Axis, CoilDriver, Driver, PulseDriver
from kivant.core.phases import COILS, WORDS

NS_PER_S = 1_000_000_000


@dataclass(frozen=True, slots=True)
class Edges:
    """Changes of an axis's lines, in no particular order across lines.

    Parameters
    ----------
    times_ns : int64 array, shape (n,)
    keys : int8 array, shape (n,)
        Which line, an index into `line_keys`.
    levels : int8 array, shape (n,)
        The electrical level after the change, 0 or 1.
    """

    times_ns: NDArray[np.int64]
    keys: NDArray[np.int8]
    levels: NDArray[np.int8]


def ns(microseconds: float) -> int:
    """Return microseconds as whole nanoseconds, never less than asked for."""
    return math.ceil(round(microseconds * 1000, 6))


def line_keys(driver: Driver) -> tuple[str, ...]:
    """Return the keys of the lines the driver has, in the order of the format; EN only where it is wired."""
    if isinstance(driver, CoilDriver):
        return COILS
    keys = ("STEP", "DIR") if driver.kind == "step_direction" else ("CW", "CCW")
    return (*keys, "EN") if driver.lines.EN is not None else keys


def board_lines(driver: Driver) -> dict[str, str]:
    """Return which board line each of the driver's lines is wired to."""
    return {key: getattr(driver.lines, key) for key in line_keys(driver)}


def enable_lead_s(axis: Axis) -> float:
    """Return how long before the first step the driver must be enabled, s; 0 without an enable line."""
    driver = axis.driver
    return driver.enable_lead_us * 1e-6 if isinstance(driver, PulseDriver) and driver.lines.EN else 0.0


def pulse_rate_limit(driver: Driver) -> float:
    """Return the fastest steps the driver itself takes, in steps/s; infinite for coils.

    One nanosecond is kept free beside pulse high and low, the grain to which instants are exported.
    """
    if isinstance(driver, CoilDriver):
        return math.inf
    return NS_PER_S / (ns(driver.pulse_high_us) + ns(driver.pulse_low_us) + 1)


def reversal_gap_s(driver: Driver, pulse_rate: float) -> float:
    """Return the least time between a step and one in the other direction, s.

    The direction line changes after the hold time (and the pulse), and the set-up time before the next
    pulse; two nanoseconds more keep this true after both instants are rounded.
    """
    if isinstance(driver, CoilDriver):
        return 1 / pulse_rate
    high = ns(driver.pulse_high_us)
    hold, setup = max(ns(driver.direction_hold_us), high), ns(driver.direction_setup_us)
    return max((max(hold + setup, high + ns(driver.pulse_low_us)) + 2) / NS_PER_S, 1 / pulse_rate)


def first_set_up_s(driver: Driver) -> float:
    """Return how long after the plan's start, when the direction is set, the first pulse may come, s."""
    has_direction = isinstance(driver, PulseDriver) and driver.kind == "step_direction"
    return (earliest_change_ns(driver) + 1) / NS_PER_S if has_direction else 0.0


def earliest_change_ns(driver: Driver) -> int:
    """Return by how much an edge may come before the step that causes it: the direction set-up."""
    return ns(driver.direction_setup_us) if isinstance(driver, PulseDriver) else 0


def _level(active: str) -> int:
    return 1 if active == "high" else 0


def levels_at_start(driver: Driver, first_sign: int) -> tuple[int, ...]:
    """Return the level of every line at time 0 of a plan whose first step goes in direction `first_sign`.

    Row 0 is energised, pulse lines rest, the direction is set, the driver is enabled.
    """
    if isinstance(driver, CoilDriver):
        return coil_levels(driver, 0)
    rest = 1 - _level(driver.pulse_active)
    positive = _level(driver.positive_level)
    direction = positive if first_sign >= 0 else 1 - positive
    second = direction if driver.kind == "step_direction" else rest
    return (rest, second, _level(driver.enable_active))[: len(line_keys(driver))]


def coil_levels(driver: CoilDriver, taken: int) -> tuple[int, ...]:
    """Return the levels of the four coil lines `taken` steps, with sign, from row 0."""
    words = WORDS[driver.sequence]
    return tuple(_coil_levels(driver, np.array([words[taken % len(words)]]))[:, 0].tolist())


def levels_after(driver: Driver, levels: tuple[int, ...]) -> tuple[int, ...]:
    """Return the levels once the plan has ended, by the driver's behaviour at rest; `levels` are the last."""
    if driver.at_rest != "off":
        return levels
    if isinstance(driver, CoilDriver):
        return (1 - _level(driver.active),) * len(levels)
    return (*levels[:2], 1 - _level(driver.enable_active)) if len(levels) == 3 else levels


def _coil_levels(driver: CoilDriver, words: NDArray[np.int64]) -> NDArray[np.int8]:
    bits = (words[None, :] >> np.arange(len(COILS))[:, None]) & 1
    return (bits if driver.active == "high" else 1 - bits).astype(np.int8)


def step_edges(
    driver: Driver, times_ns: NDArray[np.int64], signs: NDArray[np.int8], taken: int, previous_sign: int
) -> Edges:
    """Return the changes of level that a run of steps makes.

    Parameters
    ----------
    times_ns, signs : int64 and int8 arrays, shape (n,)
        The steps, in time order.
    taken : int
        Position before them in steps from row 0, with sign.
    previous_sign : int
        Direction of the step before them (of the first of them, where there is none).
    """
    if isinstance(driver, CoilDriver):
        return _coil_edges(driver, times_ns, signs, taken)
    return _pulse_edges(driver, times_ns, signs, previous_sign)


def _coil_edges(driver: CoilDriver, times_ns: NDArray[np.int64], signs: NDArray[np.int8], taken: int) -> Edges:
    words = np.array(WORDS[driver.sequence])
    positions = taken + np.concatenate(([0], np.cumsum(signs, dtype=np.int64)))
    levels = _coil_levels(driver, words[positions % len(words)])
    keys, steps = np.nonzero(np.diff(levels, axis=1))
    return Edges(times_ns[steps], keys.astype(np.int8), levels[keys, steps + 1])


def _pulse_edges(
    driver: PulseDriver, times_ns: NDArray[np.int64], signs: NDArray[np.int8], previous_sign: int
) -> Edges:
    active, count = _level(driver.pulse_active), len(times_ns)
    falls_ns = times_ns + ns(driver.pulse_high_us)
    begin, end = np.full(count, active, np.int8), np.full(count, 1 - active, np.int8)
    if driver.kind == "pulse_pair":
        keys = (signs < 0).astype(np.int8)
        return Edges(np.concatenate((times_ns, falls_ns)), np.concatenate((keys, keys)), np.concatenate((begin, end)))
    turns = np.flatnonzero(np.diff(signs, prepend=np.int8(previous_sign)))
    positive = _level(driver.positive_level)
    directions = np.where(signs[turns] > 0, positive, 1 - positive).astype(np.int8)
    step, direction = np.zeros(2 * count, np.int8), np.ones(len(turns), np.int8)
    return Edges(
        np.concatenate((times_ns, falls_ns, times_ns[turns] - ns(driver.direction_setup_us))),
        np.concatenate((step, direction)),
        np.concatenate((begin, end, directions)),
    )
