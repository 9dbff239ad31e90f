"""Pulse timing: what a driver's lines do for two steps one way and one the other, as fast as it takes them."""

from __future__ import annotations

from typing import Any

import numpy as np
from msgspec import Struct

from kivant.core.drive.drivers import levels_at_start, line_keys, ns, step_edges

NS_PER_US = 1000


class LineTiming(Struct, frozen=True):
    """One line: its level before, and each change as (us, level), ascending."""

    key: str
    before: int
    changes: tuple[tuple[float, int], ...]


class PulseTiming(Struct, frozen=True):
    """Times in us after the first pulse, and what the lines do.

    Parameters
    ----------
    high_us : float
        When the first pulse ends.
    period_us : float
        When the second one begins.
    turn_us : float
        When the direction may change.
    last_us : float
        When the step in the other direction comes.
    total_us : float
        When its pulse and the pause behind it have ended.
    lines : tuple of LineTiming
        The lines that steps change, in the order of the driver's keys.
    """

    high_us: float
    period_us: float
    turn_us: float
    last_us: float
    total_us: float
    lines: tuple[LineTiming, ...]


def pulse_timing(driver: Any) -> PulseTiming:
    """Return the timing of a driver that takes pulses (a `PulseDriver`), as it is planned and exported."""
    high, period = driver.pulse_high_us, driver.pulse_high_us + driver.pulse_low_us
    turn = period + max(driver.direction_hold_us, high)
    last = max(turn + driver.direction_setup_us, 2 * period)
    times = np.array([0, ns(period), ns(last)], np.int64)
    edges = step_edges(driver, times, np.array([1, 1, -1], np.int8), 0, 1)
    order = np.argsort(edges.times_ns, kind="stable")
    lines = []
    for index, (key, level) in enumerate(zip(line_keys(driver), levels_at_start(driver, 1), strict=True)):
        own = [k for k in order.tolist() if edges.keys[k] == index]
        changes = tuple((edges.times_ns[k].item() / NS_PER_US, edges.levels[k].item()) for k in own)
        if changes:
            lines.append(LineTiming(key, level, changes))
    return PulseTiming(high, period, turn, last, last + period, tuple(lines))
