"""What holds blocks back: the axis and the limit without which each move would take least, and what that would save.

Ramps that follow a torque are taken for those of their accelerations; no arrays, so that a check needs none.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping
from dataclasses import replace
from fractions import Fraction
from itertools import pairwise
from typing import Literal, NamedTuple

from kivant.core.machine.parts import Axis, Machine, shape_of
from kivant.core.motion.blocks import Each
from kivant.core.motion.ramp_seconds import PathRates, ramp_seconds
from kivant.core.motion.rates import Rates, rates_of
from kivant.core.motion.routine import Commands
from kivant.core.travel.conversion import steps_per_unit

Limit = Literal["speed", "acceleration", "pulse rate", "jerk"]
_KEYS: Mapping[Limit, tuple[str, ...]] = {
    "speed": ("speed",),
    "acceleration": ("acceleration", "deceleration"),
    "pulse rate": ("pulse_rate",),
    "jerk": ("jerk",),
}
MOST_LOOKED_AT = 2000
"""Moves that differ from one another and are looked at: in a longer program, the first ones tell."""

_FASTEST = 1e12  # stands for no limit
_LEAST = 1e-6  # of its time: what a move saves is nothing, if it is less


class HeldBack(NamedTuple):
    """What holds a block back: ``axis`` by its place, its ``limit``, and what is saved without it, s.

    ``seconds`` is how long one turn of it takes, ``turns`` how often it is done. Where its wished speed is not reached,
    ``needed`` is the way that would do, in its unit, of the axis (by its place) whose speed that is; of axes that reach
    it, 0. ``axes`` is how many move.
    """

    entry: int
    axis: int
    limit: Limit | None
    saved_s: float
    seconds: float
    turns: int
    needed: Mapping[int, float]
    axes: int


def held_back(machine: Machine, commanded: Commands, checkpoint: Callable[[], None] = lambda: None) -> list[HeldBack]:
    """Return what holds back each block that moves axes to targets, in the order in which they are laid."""
    rates = [rates_of(machine, axis) for axis in machine.axes]
    ratios = [float(steps_per_unit(axis)) for axis in machine.axes]
    factors = dict(zip(commanded.factors.rows, commanded.factors.values, strict=True))
    found: dict[int, HeldBack] = {}
    known: dict[tuple[object, ...], HeldBack] = {}
    for row, ways in ways_of_rows(commanded, len(machine.axes)):
        checkpoint()
        entry = commanded.places.of[row]
        if entry in found:
            found[entry] = found[entry]._replace(turns=found[entry].turns + 1)
            continue
        together = not isinstance(commanded.places.block(row), Each)
        key = (together, factors.get(row, 1.0), *sorted(ways.items()))
        if key not in known:
            if len(known) >= MOST_LOOKED_AT:
                break
            steps = {axis: float(way) * ratios[axis] for axis, way in ways.items()}
            known[key] = _held(machine, rates, steps, factors.get(row, 1.0), together=together)
        found[entry] = known[key]._replace(entry=entry)
    return list(found.values())


def ways_of_rows(commanded: Commands, axes: int) -> Iterator[tuple[int, dict[int, Fraction]]]:
    """Yield the rows in which axes go to targets, and how far each goes."""
    rows: dict[int, dict[int, Fraction]] = {}
    for axis in range(axes):
        targets = commanded.axes[axis]
        for key, (before, after) in zip(targets.keys, pairwise(targets.positions()), strict=True):
            if before != after:
                rows.setdefault(key >> 1, {})[axis] = abs(Fraction(after) - Fraction(before))
    for row in sorted(rows):
        if row not in commanded.spins.heads:
            yield row, rows[row]


def _held(
    machine: Machine, rates: list[Rates[float]], ways: Mapping[int, float], factor: float, *, together: bool
) -> HeldBack:
    groups = [dict(ways)] if together else [{axis: ways[axis]} for axis in ways]
    seconds = max(path_seconds(group, rates, factor)[0] for group in groups)
    last = max(groups, key=lambda group: path_seconds(group, rates, factor)[0])
    best: tuple[float, int, Limit | None] = (0.0, next(iter(last)), None)
    for axis in last:
        for limit, keys in _KEYS.items():
            if math.isinf(min(getattr(rates[axis], key) for key in keys)) or _idle(rates[axis], limit, factor):
                continue
            free = list(rates)
            free[axis] = replace(rates[axis], **dict.fromkeys(keys, math.inf))
            others = [path_seconds(group, free if axis in group else rates, factor)[0] for group in groups]
            saved = seconds - max(others)
            if saved > best[0] * (1 + 1e-9) and saved > _LEAST * seconds:
                best = saved, axis, limit
    needed = {}
    for group in groups:
        whole = path_seconds(group, rates, factor)[1]
        # The axis whose speed would be the path's.
        slowest = min(group, key=lambda axis: rates[axis].speed / abs(group[axis]))
        way = abs(group[slowest]) * whole / float(steps_per_unit(machine.axes[slowest]))
        needed[slowest] = way if whole > 1.0 else 0.0
    return HeldBack(0, best[1], best[2], best[0], seconds, 1, needed, len(ways))


def _idle(rates: Rates[float], limit: Limit, factor: float) -> bool:
    """Return whether a limit on the speed of an axis holds nothing back, because another one is lower."""
    pulses_hold = rates.pulse_rate < rates.speed * factor
    return (limit == "speed" and pulses_hold) or (limit == "pulse rate" and not pulses_hold)


def path_seconds(ways: Mapping[int, float], rates: list[Rates[float]], factor: float) -> tuple[float, float]:
    """Return what `ramp_seconds` does for the straight path of axes by their places; ways and rates are in steps."""
    own = [(rates[axis], abs(way)) for axis, way in ways.items()]

    def tightest(key: str, scale: float = 1.0) -> float:
        return float(min(scale * getattr(rate, key) / way for rate, way in own))

    speed = min(tightest("speed", factor), tightest("pulse_rate"))
    if math.isinf(speed):
        speed = _FASTEST
    path = PathRates(
        speed, tightest("acceleration"), tightest("deceleration"), tightest("start_speed"), tightest("jerk")
    )
    return ramp_seconds(path)


def limit_words(axis: Axis, limit: Limit) -> str:
    """Return a limit of an axis with its figure."""
    limits = axis.limits
    if limit == "speed":
        return f"speed of {limits.speed:g} {axis.unit}/s"
    if limit == "acceleration":
        return f"acceleration of {min(limits.acceleration, limits.deceleration):g} {axis.unit}/s²"
    if limit == "jerk" and limits.jerk is not None and shape_of(limits) == "s_curve":
        return f"jerk of {limits.jerk:g} {axis.unit}/s³"
    return "pulse rate"
