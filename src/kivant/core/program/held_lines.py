"""What holds straight lines of a tool back: the limit of an axis, or of the tool, without which each takes least."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import cast

import numpy as np

from kivant.core.machine.parts import Machine
from kivant.core.machine.tool import tool_of
from kivant.core.motion.blocks import Move
from kivant.core.motion.commanded import Commands
from kivant.core.motion.cubic_course import Cubics
from kivant.core.motion.line_limits import LineLimits, line_limits
from kivant.core.motion.segment import Reals
from kivant.core.motion.straight import cubics_along
from kivant.core.motion.tool_line import Line
from kivant.core.program.holder import LIMITS, HeldBack, Limit

MOST_LINES = 200
"""Lines that differ from one another and are looked at: of more, the first ones tell."""

_NEAR = 0.97  # of a limit: one that is never nearer holds nothing back
_LEAST = 1e-4  # of its time: what a line saves is nothing, if it is less


def held_lines(machine: Machine, commanded: Commands, checkpoint: Callable[[], None]) -> dict[int, HeldBack]:
    """Return what holds back each line of a routine, by its entry in the outline."""
    tool = tool_of(machine)
    assert tool is not None
    limits = line_limits(machine, tool)
    found: dict[int, HeldBack] = {}
    known: dict[tuple[int, float], HeldBack] = {}
    for row, lines in commanded.lines.items():
        checkpoint()
        entry, factor = commanded.places.of[row], cast(Move, commanded.places.block(row)).factor
        if entry in found:
            found[entry] = found[entry]._replace(turns=found[entry].turns + 1)
        elif all(line.length for line in lines) and (len(known) < MOST_LINES or (id(lines), factor) in known):
            if (id(lines), factor) not in known:
                known[id(lines), factor] = _held(lines, limits, factor, commanded.spins.seconds[row])
            found[entry] = known[id(lines), factor]._replace(entry=entry)
    return found


def _held(lines: Sequence[Line], limits: LineLimits, factor: float, seconds: float) -> HeldBack:
    """Return what holds a line back that takes `seconds`, from stop to stop."""
    gone = [cubics_along(line, limits, factor) for line in lines]
    takes = sum(float(cubics.times.sum()) for cubics in gone)
    far = sum(np.abs(cubics.last - cubics.first).sum(axis=0) for cubics in gone)
    axes = lines[0].axes
    near = {limit: np.max([_near(cubics, limits, factor)[limit] for cubics in gone], axis=0) for limit in LIMITS}
    spread = bool(np.isfinite(limits.jerk).any())  # what does not come near its limit may set the pace all the same
    options: list[tuple[int | None, Limit]] = [
        (axis, limit) for limit in LIMITS for axis in range(len(axes))
        if far[axis] and (near[limit][axis] > _NEAR or (spread and limit == "acceleration"))
    ]  # fmt: skip
    options += [(None, "speed")] if np.isfinite(limits.tool_speed) else []
    options += [(None, "acceleration")] if np.isfinite(limits.tool_acceleration) else []
    best: tuple[float, int | None, Limit | None] = (0.0, None, None)
    for axis, limit in options:
        free = limits.without(limit, axis)
        saved = takes - sum(float(cubics_along(line, free, factor).times.sum()) for line in lines)
        if saved > best[0] and saved > _LEAST * takes:
            best = saved, None if axis is None else axes[axis], limit
    return HeldBack(0, best[1], best[2], best[0], seconds, 1, {}, int((far > 0).sum()))


def _near(cubics: Cubics, limits: LineLimits, factor: float) -> dict[Limit, Reals]:
    """Return how near each axis comes to each of its limits, as a share of it."""
    speeds, (first, last) = cubics.greatest_speeds(), cubics.rates()
    rate = np.maximum(np.abs(first), np.abs(last)) / np.minimum(*limits.rates(speeds))
    return {
        "speed": (speeds / (factor * limits.speed)).max(axis=0),
        "pulse rate": (speeds / limits.pulse_rate).max(axis=0),
        "acceleration": rate.max(axis=0),
        "jerk": np.where(np.isfinite(limits.jerk), 1.0, 0.0),
    }
