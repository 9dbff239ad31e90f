"""Spins held against the limits of the tool that their axes move: ramps may be gentler, but speeds are typed."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from itertools import groupby
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from kivant.core.machine.parts import Machine
from kivant.core.machine.tool import Tool, bounded_tool_of
from kivant.core.motion.spins import RowFault, Share
from kivant.core.motion.tool_pace import Courses, paces
from kivant.core.path import Path

if TYPE_CHECKING:
    from kivant.core.motion.commanded import Commands

_SAME = 1e-6  # of a limit: by rounding only
_GENTLER, _MORE = 8, 0.98  # how often ramps are made gentler, and what else is taken then
_LEAST = 0.01  # of the acceleration of the tool: what has to be left for ramps


class Held(NamedTuple):
    """Spins in which the tool passes a limit, and which share of accelerations some may have, by their first row."""

    faults: list[RowFault]
    shares: dict[int, float]


def within_tool(
    machine: Machine, found: Commands, checkpoint: Callable[[], None], again: Callable[[Mapping[int, float]], Commands]
) -> Commands:
    """Return what a routine commands, with spins in which the tool keeps to its limits, or their faults.

    `again` commands it anew, with shares of the accelerations of spins, by their first row.
    """
    shares: dict[int, float] = {}
    for rounds in range(_GENTLER + 1):
        if found.spins.faults:
            break
        held = held_to_tool(machine, found, checkpoint)
        if len(held.shares) < len(held.faults) or (held.faults and rounds == _GENTLER):
            found.spins = found.spins._replace(faults=held.faults)
        elif held.shares:  # the ramps of these spins are made gentler
            shares |= {head: shares.get(head, 1.0) * _MORE * share for head, share in held.shares.items()}
            found = again(shares)
        else:
            break
    return found


def held_to_tool(machine: Machine, found: Commands, checkpoint: Callable[[], None]) -> Held:
    """Return, for each row of spins in which the tool passes a limit, the first spin in which it does."""
    tool = bounded_tool_of(machine)
    held = Held([], {})
    if tool is None:
        return held
    carried, heads = set(tool.axes.values()), found.spins.heads
    by_head: dict[int, dict[int, list[Share]]] = {}
    for axis in carried:
        for share in found.spins.shares[axis]:
            if share.way and share.row not in found.lines:  # while play is taken up, the tool stands
                by_head.setdefault(heads[share.row], {}).setdefault(axis, []).append(share)
    known = dict[tuple[object, ...], _Passed | None]()
    for head, rows in groupby(found.spun, lambda row: heads[row]):
        checkpoint()
        run, shares = list(rows), by_head.get(head, {})
        if not shares:
            continue
        before = [float(position) for position in found.positions(head)]
        key = (*(id(found.places.block(row)) for row in run), *before)
        if key not in known:
            begins = np.concatenate(([0.0], np.cumsum([found.spins.seconds[row] for row in run])))
            courses = {axis: _courses(own, head, begins, before[axis]) for axis, own in shares.items()}
            known[key] = _passed(tool, before, courses, begins)
        passed = known[key]
        if passed is not None:
            held.faults.append(RowFault(run[passed.spin], Path.of("speeds"), passed.message, passed.remedy))
            if passed.share is not None:
                held.shares[head] = passed.share
    return held


class _Passed(NamedTuple):
    """In which spin a limit is passed first, and which share of accelerations would keep it (None: none does)."""

    spin: int
    message: str
    remedy: str
    share: float | None


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


def _passed(tool: Tool, before: Sequence[float], courses: dict[int, Courses], begins: np.ndarray) -> _Passed | None:
    """Return what limit the tool passes in a row of spins, None if it keeps to all."""
    times, speed, rate = paces(tool, before, courses)
    (fastest, steepest), unit = tool.bounds, tool.unit
    wrong = (speed > fastest * (1 + _SAME)) | (rate > steepest * (1 + _SAME))
    if not wrong.any():
        return None
    fast = speed > fastest * (1 + _SAME)
    turning = paces(tool, before, courses, steady=True)[2]
    steep = turning > steepest * (1 - _LEAST)  # without any ramps
    hopeless = fast if fast.any() else steep if steep.any() else wrong
    spin = min(int(np.searchsorted(begins, times[int(hopeless.argmax())], "right")) - 1, len(begins) - 2)
    within = (times >= begins[spin]) & (times < begins[spin + 1])
    if fast.any():
        message = f"The tool would go at {float(speed[within].max()):.4g} {unit}/s; its limit is {fastest:.4g}."
        return _Passed(spin, message, "Spin slower, or raise the speed of the tool.", None)
    most = float(rate[within].max())
    message = f"The tool would be accelerated by {most:.4g} {unit}/s²; its limit is {steepest:.4g}."
    share = None
    if not steep.any():
        # What is left beside turning, at a right angle to it; for other tools than a column about that.
        left, ramps = steepest**2 - turning[wrong] ** 2, rate[wrong] ** 2 - turning[wrong] ** 2
        share = float(np.sqrt(left / np.maximum(ramps, left)).min())
    return _Passed(spin, message, "Spin slower, or raise the acceleration of the tool.", share)
