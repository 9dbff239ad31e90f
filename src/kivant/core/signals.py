"""Signals: the levels of one axis's lines over a short window of a plan, for looking at them."""

from __future__ import annotations

import numpy as np
from msgspec import Struct

from kivant.core.drive.drivers import NS_PER_S, driver_kind, levels_after, line_keys, step_edges
from kivant.core.motion.plan import AxisPlan
from kivant.core.travel.sense import rotor_sense


class Signal(Struct, frozen=True):
    """One line over a window.

    Parameters
    ----------
    key : str
        The driver's line key.
    before : int
        Level at the window's beginning.
    changes : tuple of (float, int)
        Time in s and new level, ascending, within the window.
    """

    key: str
    before: int
    changes: tuple[tuple[float, int], ...]

    def level_at(self, time_s: float) -> int:
        """Return the level at a time within the window."""
        level = self.before
        for at, new in self.changes:
            if at > time_s:
                break
            level = new
        return level


def signals_between(axis: AxisPlan, begin_s: float, end_s: float, powered_s: float) -> tuple[Signal, ...]:
    """Return every line of the axis between two times of a plan that is powered until `powered_s`."""
    train, driver = axis.train, axis.axis.driver
    first, last = train.taken(begin_s), train.taken(end_s)
    # One step more on either side: its pulse may still be on, its direction may already be set.
    low, high = max(first - 1, 0), min(last + 1, train.count)
    times_ns = np.array([round(train.instant(k) * NS_PER_S) for k in range(low, high)], np.int64)
    sense = rotor_sense(axis.axis)
    signs = np.array([sense * train.sign_of(k) for k in range(low, high)], np.int8)
    opening = train.sign_of(0) if train.count else 1
    previous = sense * (train.sign_of(low - 1) if low else opening)
    taken = sense * (train.position_after(low) - axis.start_steps)
    edges = step_edges(driver, times_ns, signs, taken, previous)

    keys = line_keys(driver)
    levels = driver_kind(driver).levels_at(driver, taken, previous)
    end_ns = round(powered_s * NS_PER_S)
    order = np.argsort(edges.times_ns, kind="stable")
    changes: list[list[tuple[int, int]]] = [[] for _ in keys]
    for k in order:
        changes[edges.keys[k]].append((int(edges.times_ns[k]), int(edges.levels[k])))
    if high == train.count:
        final = tuple(c[-1][1] if c else level for c, level in zip(changes, levels, strict=True))
        for own, level, after in zip(changes, final, levels_after(driver, final), strict=True):
            if after != level:
                own.append((max(end_ns, own[-1][0] if own else 0), after))
    return tuple(_clipped(*columns, begin_s, end_s) for columns in zip(keys, levels, changes, strict=True))


def _clipped(key: str, level: int, changes: list[tuple[int, int]], begin_s: float, end_s: float) -> Signal:
    before, within = level, []
    for at_ns, new in changes:
        at = at_ns / NS_PER_S
        if at <= begin_s:
            before = new
        elif at <= end_s:
            within.append((at, new))
    return Signal(key, before, tuple(within))
