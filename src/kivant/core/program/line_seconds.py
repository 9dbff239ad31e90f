"""How long straight lines of a tool take at each speed factor: tables, as a whole plan of one takes too long."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from functools import partial

from kivant.core.machine.parts import Machine
from kivant.core.machine.tool import tool_of
from kivant.core.motion.commanded import Commands
from kivant.core.motion.line_limits import LineLimits, line_limits
from kivant.core.motion.straight import cubics_along
from kivant.core.motion.tool_line import Line
from kivant.core.program.path_times import tabulated


def line_seconds(machine: Machine, commanded: Commands) -> Iterator[tuple[int, Callable[[float], float]]]:
    """Yield the rows in which a tool goes straight, and what tells the time, s, of each at a speed factor."""
    tool = tool_of(machine)
    assert tool is not None
    limits = line_limits(machine, tool)
    known: dict[int, Callable[[float], float]] = {}
    for row, lines in commanded.lines.items():
        if all(line.length for line in lines):
            if id(lines) not in known:
                known[id(lines)] = tabulated(partial(_seconds, lines, limits))
            yield row, known[id(lines)]


def _seconds(lines: Sequence[Line], limits: LineLimits, factor: float) -> float:
    return sum(float(cubics_along(line, limits, factor).times.sum()) for line in lines)
