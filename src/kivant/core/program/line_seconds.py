"""How long straight lines of a tool take at each speed factor: tables, as a whole plan of one takes too long."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np

from kivant.core.machine.parts import Machine
from kivant.core.machine.tool import tool_of
from kivant.core.motion.line_limits import LineLimits, line_limits
from kivant.core.motion.routine import Commands
from kivant.core.motion.straight import Line, cubics_along

_FACTORS = np.geomspace(1e-3, 1.0, 13)  # below, a line is as slow as its speed says


def line_seconds(machine: Machine, commanded: Commands) -> Iterator[tuple[int, Callable[[float], float]]]:
    """Yield the rows in which a tool goes straight, and what tells the time, s, of each at a speed factor."""
    tool = tool_of(machine)
    assert tool is not None
    limits = line_limits(machine, tool)
    known: dict[int, Callable[[float], float]] = {}
    for row, line in commanded.lines.items():
        if line.length:
            if id(line) not in known:
                known[id(line)] = _table(line, limits)
            yield row, known[id(line)]


def _table(line: Line, limits: LineLimits) -> Callable[[float], float]:
    places = np.log(_FACTORS)
    ways = [factor * float(cubics_along(line, limits, factor).times.sum()) for factor in _FACTORS.tolist()]
    return lambda factor: float(np.interp(np.log(factor), places, ways)) / factor
