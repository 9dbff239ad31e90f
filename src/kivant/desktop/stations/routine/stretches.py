"""Stretches: from when to when a block lasts in a plan."""

from __future__ import annotations

from kivant.core.machine import Block
from kivant.core.plan import Plan
from kivant.core.program.editing import Place


def _entry(plan: Plan, place: Place) -> int | None:
    """Return which of the plan's listed blocks is at a place."""
    depth = plan.blocks.listed.depth
    first, end = 0, len(depth)
    for level, row in enumerate(place):
        rows = (depth[first:end] == level).nonzero()[0]
        if row >= len(rows):
            return None
        end, first = first + int(rows[row + 1]) if row + 1 < len(rows) else end, first + int(rows[row]) + 1
    return first - 1


def entry_of(plan: Plan | None, blocks: tuple[Block, ...], place: Place | None) -> int | None:
    """Return which of the plan's listed blocks a block of a program is; None where the plan has none of it."""
    if plan is None or place is None or plan.routine.blocks is not blocks:
        return None
    return _entry(plan, place)


def stretch_of(plan: Plan | None, blocks: tuple[Block, ...], place: Place | None) -> tuple[float, float] | None:
    """Return the time of a block of a program, from and to, s; None where the plan has none of it."""
    entry = entry_of(plan, blocks, place)
    if plan is None or entry is None:
        return None
    begin, end = float(plan.blocks.listed.begin_s[entry]), float(plan.blocks.listed.end_s[entry])
    return (begin, end) if end > begin else None
