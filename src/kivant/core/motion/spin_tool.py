"""Spins held against the limits of the tool that their axes move: speeds are typed, so that none is slowed down."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from itertools import groupby
from typing import TYPE_CHECKING

import numpy as np

from kivant.core.machine.parts import Machine
from kivant.core.machine.tool import Tool, bounded_tool_of
from kivant.core.motion.spins import RowFault, Share
from kivant.core.motion.tool_pace import Courses, paces
from kivant.core.path import Path

if TYPE_CHECKING:
    from kivant.core.motion.routine import Commands

_SAME = 1e-6  # of a limit: by rounding only


def spins_of_tool(machine: Machine, found: Commands, checkpoint: Callable[[], None]) -> list[RowFault]:
    """Return the first spin of each row of them in which the tool would be faster than its limits, and why."""
    tool = bounded_tool_of(machine)
    if tool is None:
        return []
    carried = set(tool.axes.values())
    heads = found.spins.heads
    by_head: dict[int, dict[int, list[Share]]] = {}
    for axis in carried:
        for share in found.spins.shares[axis]:
            if share.way and share.row not in found.lines:  # while play is taken up, the tool stands
                by_head.setdefault(heads[share.row], {}).setdefault(axis, []).append(share)
    faults, known = [], dict[tuple[object, ...], tuple[int, str, str] | None]()
    for head, rows in groupby(found.spun, lambda row: heads[row]):
        checkpoint()
        run, shares = list(rows), by_head.get(head, {})
        if not shares or not all(row in found.spins.seconds for row in run):
            continue
        before = [float(position) for position in found.positions(head)]
        key = (*(id(found.places.block(row)) for row in run), *before)
        if key not in known:
            begins = np.concatenate(([0.0], np.cumsum([found.spins.seconds[row] for row in run])))
            courses = {axis: _courses(own, head, begins, before[axis]) for axis, own in shares.items()}
            known[key] = _too_fast(tool, before, courses, begins)
        one = known[key]
        if one is not None:
            faults.append(RowFault(run[one[0]], Path.of("speeds"), *one[1:]))
    return faults


def _courses(shares: Sequence[Share], head: int, begins: np.ndarray, start: float) -> Courses:
    """Return what an axis does in spins from row `head` on, which begin at some times, from a position on."""
    rows: list[tuple[float, float, float, float, float]] = []
    at = start
    for share in shares:
        time = float(begins[share.row - head]) + share.begin_s
        for piece in share.pieces:
            rows.append((time, at, piece.sense * piece.speed, piece.sense * piece.rate, piece.sense * piece.jerk))
            time, at = time + piece.seconds, at + piece.sense * piece.way_after(piece.seconds)
        rows.append((time, at, 0.0, 0.0, 0.0))
    rows.insert(0, (0.0, start, 0.0, 0.0, 0.0))
    kept = [row for row, after in zip(rows, [*rows[1:], None], strict=True) if after is None or after[0] > row[0]]
    return Courses(*(np.array(column) for column in zip(*kept, strict=True)))


def _too_fast(
    tool: Tool, before: Sequence[float], courses: dict[int, Courses], begins: np.ndarray
) -> tuple[int, str, str] | None:
    """Return in which spin the tool passes a limit first, what is wrong and what to do; None if it never does."""
    times, speed, rate = paces(tool, before, courses)
    (fastest, steepest), unit = tool.bounds, tool.unit
    wrong = (speed > fastest * (1 + _SAME)) | (rate > steepest * (1 + _SAME))
    if not wrong.any():
        return None
    first = int(wrong.argmax())
    spin = min(int(np.searchsorted(begins, times[first], "right")) - 1, len(begins) - 2)
    within = (times >= begins[spin]) & (times < begins[spin + 1])
    if float(speed[within].max()) > fastest:
        message = f"The tool would go at {float(speed[within].max()):.4g} {unit}/s; its limit is {fastest:.4g}."
        return spin, message, "Spin slower, or raise the speed of the tool."
    most = float(rate[within].max())
    message = f"The tool would be accelerated by {most:.4g} {unit}/s²; its limit is {steepest:.4g}."
    return spin, message, "Lower speeds or accelerations of these axes, or raise the acceleration of the tool."
