"""Holders: what may hold a block back, an axis or the tool with one of its limits, and how that is said."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import Literal, NamedTuple

from kivant.core.machine.parts import Machine, shape_of
from kivant.core.machine.tool import tool_of
from kivant.core.motion.rates import Rates

Limit = Literal["speed", "acceleration", "pulse rate", "jerk"]
LIMITS: Mapping[Limit, tuple[str, ...]] = {
    "speed": ("speed",),
    "acceleration": ("acceleration", "deceleration"),
    "pulse rate": ("pulse_rate",),
    "jerk": ("jerk",),
}
"""What may hold an axis back, and the rates that each is about."""


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


def freed(rates: Sequence[Rates], axis: int, limit: Limit) -> list[Rates]:
    """Return the rates of all axes, one of which, by its place, is without one of its limits."""
    found = list(rates)
    found[axis] = rates[axis]._replace(**dict.fromkeys(LIMITS[limit], math.inf))
    return found


def may_hold(rates: Rates, limit: Limit, factor: float) -> bool:
    """Return whether an axis has such a limit, and no lower one on its speed; wished speeds are scaled by a factor."""
    pulses_hold = rates.pulse_rate < rates.speed * factor
    if (limit == "speed" and pulses_hold) or (limit == "pulse rate" and not pulses_hold):
        return False
    return not math.isinf(min(getattr(rates, key) for key in LIMITS[limit]))


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
