"""Shortest ways: an axis that turns comes to a place of the tool from where it is, not by way of its position 0."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence
from decimal import Decimal
from typing import TYPE_CHECKING

from kivant.core.motion.whole_turns import TURN, turns_to

if TYPE_CHECKING:
    from kivant.core.machine.tool import Tool
    from kivant.core.motion.commanded import AxisTargets, Commands

_SHORT = 179.0  # deg: no other way is shorter


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
