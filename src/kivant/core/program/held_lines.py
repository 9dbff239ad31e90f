"""What holds straight lines of a tool back: the limit of an axis, or of the tool, without which each takes least."""

from __future__ import annotations

from collections.abc import Callable
from typing import cast

import numpy as np

from kivant.core.machine.parts import Machine
from kivant.core.machine.tool import tool_of
from kivant.core.motion.blocks import Move
from kivant.core.motion.line_limits import LineLimits, line_limits
from kivant.core.motion.routine import Commands
from kivant.core.motion.straight import Line, cubics_along
from kivant.core.program.held_back import LIMITS, HeldBack, Limit

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
    for row, line in commanded.lines.items():
        checkpoint()
        entry, factor = commanded.places.of[row], cast(Move, commanded.places.block(row)).factor
        if entry in found:
            found[entry] = found[entry]._replace(turns=found[entry].turns + 1)
        elif line.length and (len(known) < MOST_LINES or (id(line), factor) in known):
            if (id(line), factor) not in known:
                known[id(line), factor] = _held(line, limits, factor, commanded.spins.seconds[row])
            found[entry] = known[id(line), factor]._replace(entry=entry)
    return found


def _held(line: Line, limits: LineLimits, factor: float, seconds: float) -> HeldBack:
    """Return what holds a line back that takes `seconds`."""
    cubics = cubics_along(line, limits, factor)
    takes = float(cubics.times.sum())
    far = np.abs(np.diff(cubics.at, axis=0)).sum(axis=0)
    best: tuple[float, int | None, Limit | None] = (0.0, None, None)
    speeds, (first, last) = cubics.greatest_speeds(), cubics.rates()
    up, down = limits.rates(speeds)
    rate = np.maximum(np.abs(first), np.abs(last)) / np.minimum(up, down)
    near = {
        "speed": (speeds / (factor * limits.speed)).max(axis=0),
        "pulse rate": (speeds / limits.pulse_rate).max(axis=0),
        "acceleration": rate.max(axis=0),
        "jerk": np.where(np.isfinite(limits.jerk), 1.0, 0.0),
    }
    spread = bool(np.isfinite(limits.jerk).any())  # what does not come near its limit may set the pace all the same
    options: list[tuple[int | None, Limit]] = [
        (axis, limit) for limit in LIMITS for axis in range(len(far))
        if far[axis] and (near[limit][axis] > _NEAR or (spread and limit == "acceleration"))
    ]  # fmt: skip
    options += [(None, "speed")] if np.isfinite(limits.tool_speed) else []
    options += [(None, "acceleration")] if np.isfinite(limits.tool_acceleration) else []
    for axis, limit in options:
        saved = takes - float(cubics_along(line, limits.without(limit, axis), factor).times.sum())
        if saved > best[0] and saved > _LEAST * takes:
            best = saved, None if axis is None else line.axes[axis], limit
    return HeldBack(0, best[1], best[2], best[0], seconds, 1, {}, int((far > 0).sum()))
