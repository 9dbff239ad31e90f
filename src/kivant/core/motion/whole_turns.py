"""Whole turns: an axis that turns comes to a place of the tool from where it is, and not by way of its position 0."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence
from decimal import Decimal
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from kivant.core.machine.tool import Tool
    from kivant.core.motion.commanded import AxisTargets, Commands

TURN = 360
_SHORT = 179.0  # deg: no other way is shorter
_SAME = 1e-6  # deg: ways of which neither is the shorter one


def take_shortest_ways(tool: Tool, found: Commands, rows: Sequence[int]) -> None:
    """Let axes go the shortest way in rows that bring a tool to places, within their limits.

    The rows ascend; all that is before the first of them, and between them, is as it will be. Axes that wrap go by
    their own rule.
    """
    placed = set(rows)
    for index in tool.turning:
        if tool.wraps(index):
            continue
        keys, values, limits = found.axes[index].keys, found.axes[index].values, tool.limits(index)
        here = float(found.axes[index].position(rows[0]))
        for at in range(bisect_left(keys, 2 * rows[0]), bisect_left(keys, 2 * rows[-1] + 2)):
            value = float(values[at])
            if keys[at] & 1:
                here += value
                continue
            if abs(value - here) > _SHORT and keys[at] >> 1 in placed:
                turns = turns_to(value, here, *limits)
                values[at] += TURN * turns
                value += TURN * turns
            here = value


def turn_on(targets: AxisTargets, row: int, turns: int) -> None:
    """Add whole turns to all positions of an axis that it is commanded after a row; none of them is relative."""
    for at in range(bisect_left(targets.keys, 2 * row + 2), len(targets.keys)):
        targets.values[at] += Decimal(TURN * turns)


def turns_to(position: float, here: float, low: float, high: float, same: float = _SAME) -> int:
    """Return how many whole turns beside a position, deg, an axis reaches first from where it is, within its limits.

    Of two that are as far away, to so many degrees, it is the one nearer to 0; none, if all lie beyond the limits.
    """
    middle = round((here - position) / TURN)
    own: dict[int, float] = {turns: position + TURN * turns for turns in range(middle - 1, middle + 2)}
    within = {turns: at for turns, at in own.items() if low <= at <= high} or {0: position}
    least = min(abs(at - here) for at in within.values()) + same
    ends = {turns: at for turns, at in within.items() if abs(at - here) <= least}
    return min(ends, key=lambda turns: abs(ends[turns]) - same / 2 * (ends[turns] > 0))
