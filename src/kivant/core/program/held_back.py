"""What holds blocks back: the axis or tool, and its limit, without which each move would take least.

Ramps that follow a torque are taken for those of their accelerations. Arrays are used only where a tool has limits or
goes straight, so that a check of most machines needs none. The time of a spin is typed: nothing holds it back.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import replace
from fractions import Fraction
from itertools import pairwise
from typing import Any, Literal, NamedTuple

from kivant.core.machine.parts import Machine, shape_of
from kivant.core.machine.tool import tool_of
from kivant.core.motion.blocks import Each
from kivant.core.motion.ramp_seconds import PathRates, ramp_seconds
from kivant.core.motion.rates import Rates, rates_of
from kivant.core.motion.routine import Commands
from kivant.core.travel.conversion import steps_per_unit

Limit = Literal["speed", "acceleration", "pulse rate", "jerk"]
LIMITS: Mapping[Limit, tuple[str, ...]] = {
    "speed": ("speed",),
    "acceleration": ("acceleration", "deceleration"),
    "pulse rate": ("pulse_rate",),
    "jerk": ("jerk",),
}
"""What may hold an axis back, and the rates that each is about."""
MOST_LOOKED_AT = 2000
"""Moves that differ from one another and are looked at: in a longer program, the first ones tell."""

Bound = tuple[float, float]
"""Speed and acceleration that a path from 0 to 1 may have by the limits of the tool."""
UNBOUND: Bound = (math.inf, math.inf)

_FASTEST = 1e12  # stands for no limit
_LEAST = 1e-6  # of its time: what a move saves is nothing, if it is less


class HeldBack(NamedTuple):
    """What holds a block back: ``axis`` by its place (None: the tool), its ``limit``, and what is saved without it, s.

    ``seconds`` is how long one turn of it takes, ``turns`` how often it is done. Where its wished speed is not reached,
    ``needed`` is the way that would do, in its unit, of the axis (by its place) whose speed that is; of axes that reach
    it, 0. ``axes`` is how many move.
    """

    entry: int
    axis: int | None
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
    bounded = [Bounds(own) for own in _without_tool(machine)]
    found: dict[int, HeldBack] = {}
    known: dict[tuple[object, ...], HeldBack] = {}
    for row, ways in ways_of_rows(commanded, len(machine.axes)):
        checkpoint()
        entry = commanded.places.of[row]
        if entry in found:
            found[entry] = found[entry]._replace(turns=found[entry].turns + 1)
            continue
        together = not isinstance(commanded.places.block(row), Each)
        at = commanded.positions(row) if together and bounded else ()
        key = (together, factors.get(row, 1.0), at, *sorted(ways.items()))
        if key not in known:
            if len(known) >= MOST_LOOKED_AT:
                break
            steps = {axis: float(way) * ratios[axis] for axis, way in ways.items()}
            tools = [own.of(at, ways) for own in bounded] if together else []
            known[key] = _held(machine, rates, steps, factors.get(row, 1.0), tools, together=together)
        found[entry] = known[key]._replace(entry=entry)
    if commanded.lines:
        from kivant.core.program.held_lines import held_lines  # NumPy, where a tool goes straight

        found |= held_lines(machine, commanded, checkpoint)
    return [found[entry] for entry in sorted(found)]


def ways_of_rows(commanded: Commands, axes: int) -> Iterator[tuple[int, dict[int, Fraction]]]:
    """Yield the rows in which axes go to targets, and how far each goes, with sign."""
    rows: dict[int, dict[int, Fraction]] = {}
    for axis in range(axes):
        targets = commanded.axes[axis]
        for key, (before, after) in zip(targets.keys, pairwise(targets.positions()), strict=True):
            if before != after:
                rows.setdefault(key >> 1, {})[axis] = Fraction(after) - Fraction(before)
    for row in sorted(rows):
        if row not in commanded.spins.heads:
            yield row, rows[row]


class Bounds:
    """What the limits of a machine's tool make of the paths of its axes."""

    def __init__(self, machine: Machine) -> None:
        self._machine = machine

    def of(self, at: Iterable[Fraction], ways: Mapping[int, Fraction]) -> Bound:
        """Return the bound of a path in which axes (by their places) go so far from where all are."""
        import numpy as np  # where a tool has limits

        from kivant.core.motion.tool_limits import tool_limits

        before = np.array([[float(position) for position in at]])
        axes = np.array(list(ways), np.int64)
        own = np.array([float(way) for way in ways.values()])
        found = tool_limits(self._machine, np.zeros_like(axes), axes, before[0, axes], own, before)
        return UNBOUND if found is None else (float(found[0][0]), float(found[1][0]))


def has_tool_limits(machine: Machine) -> bool:
    """Return whether the tool of a machine has limits of its own."""
    geometry: Any = machine.geometry
    return any(getattr(geometry, key, None) is not None for key in ("tool_speed", "tool_acceleration"))


def _without_tool(machine: Machine) -> list[Machine]:
    """Return the machine, and without the speed and the acceleration of its tool; none, if that has no limits."""
    geometry: Any = machine.geometry
    if not has_tool_limits(machine):
        return []
    lifted = (replace(geometry, **{key: None}) for key in ("tool_speed", "tool_acceleration"))
    return [machine, *(replace(machine, geometry=own) for own in lifted)]


def _held(
    machine: Machine, rates: list[Rates[float]], ways: Mapping[int, float], factor: float, tools: list[Bound], *,
    together: bool,
) -> HeldBack:  # fmt: skip
    groups = [dict(ways)] if together else [{axis: ways[axis]} for axis in ways]
    bound = tools[0] if tools else UNBOUND

    def takes(own: list[Rates[float]], tool: Bound) -> float:
        return max(path_seconds(group, own, factor, tool)[0] for group in groups)

    seconds = takes(rates, bound)
    last = max(groups, key=lambda group: path_seconds(group, rates, factor, bound)[0])
    others: list[tuple[int | None, Limit, list[Rates[float]], Bound]] = [
        (axis, limit, [*rates[:axis], replace(rates[axis], **dict.fromkeys(keys, math.inf)), *rates[axis + 1 :]], bound)
        for axis in last
        for limit, keys in LIMITS.items()
        if not math.isinf(min(getattr(rates[axis], key) for key in keys)) and not _idle(rates[axis], limit, factor)
    ]
    others += [(None, limit, rates, tool) for limit, tool in zip(LIMITS, tools[1:], strict=False)]
    best: tuple[float, int | None, Limit | None] = (0.0, next(iter(last)), None)
    for axis, limit, own, tool in others:
        saved = seconds - takes(own, tool)
        if saved > best[0] * (1 + 1e-9) and saved > _LEAST * seconds:
            best = saved, axis, limit
    needed = {}
    for group in groups:
        whole = path_seconds(group, rates, factor, bound)[1]
        # The axis whose speed would be the path's.
        slowest = min(group, key=lambda axis: rates[axis].speed / abs(group[axis]))
        way = abs(group[slowest]) * whole / float(steps_per_unit(machine.axes[slowest]))
        needed[slowest] = way if whole > 1.0 else 0.0
    return HeldBack(0, best[1], best[2], best[0], seconds, 1, needed, len(ways))


def _idle(rates: Rates[float], limit: Limit, factor: float) -> bool:
    """Return whether a limit on the speed of an axis holds nothing back, because another one is lower."""
    pulses_hold = rates.pulse_rate < rates.speed * factor
    return (limit == "speed" and pulses_hold) or (limit == "pulse rate" and not pulses_hold)


def path_seconds(
    ways: Mapping[int, float], rates: list[Rates[float]], factor: float, tool: Bound = UNBOUND
) -> tuple[float, float]:
    """Return what `ramp_seconds` does for the straight path of axes by their places; ways and rates are in steps."""
    own = [(rates[axis], abs(way)) for axis, way in ways.items()]

    def tightest(key: str, scale: float = 1.0) -> float:
        return float(min(scale * getattr(rate, key) / way for rate, way in own))

    speed = min(tightest("speed", factor), tightest("pulse_rate"), tool[0])
    if math.isinf(speed):
        speed = _FASTEST
    up, down = (min(tightest(key), tool[1]) for key in ("acceleration", "deceleration"))
    return ramp_seconds(PathRates(speed, up, down, tightest("start_speed"), tightest("jerk")))


def holder_words(machine: Machine, axis: int | None, limit: Limit) -> str:
    """Return a limit of an axis by its place, or of the tool (None), with its figure: “Lift's speed of 40 mm/s”."""
    if axis is None:
        geometry, tool = machine.geometry, tool_of(machine)
        assert geometry is not None and tool is not None
        unit = tool.unit
        found = geometry.tool_speed if limit == "speed" else geometry.tool_acceleration
        return f"the tool's {limit} of {found:g} {unit}/{'s' if limit == 'speed' else 's²'}"
    return f"{machine.axes[axis].name}'s {limit_words(machine, axis, limit)}"


def limit_words(machine: Machine, axis: int, limit: Limit) -> str:
    """Return a limit of an axis by its place with its figure: “speed of 40 mm/s”."""
    own = machine.axes[axis]
    limits, unit = own.limits, own.unit
    if limit == "speed":
        return f"speed of {limits.speed:g} {unit}/s"
    if limit == "acceleration":
        return f"acceleration of {min(limits.acceleration, limits.deceleration):g} {unit}/s²"
    if limit == "jerk" and limits.jerk is not None and shape_of(limits) == "s_curve":
        return f"jerk of {limits.jerk:g} {unit}/s³"
    return "pulse rate"
