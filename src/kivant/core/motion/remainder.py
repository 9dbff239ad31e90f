"""The remainder of a plan: the routine that goes on from where a motion was stopped on its path."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction

from kivant.core.machine.parts import Routine
from kivant.core.motion.blocks import Block, Commanded, Move, Pause
from kivant.core.motion.plan import Plan
from kivant.core.motion.routine import walk
from kivant.core.quantity import as_decimal


def remainder(plan: Plan, played_s: float, counts: Sequence[int]) -> Routine | None:
    """Return what is left of a plan of which so much was played, None at its end.

    Parameters
    ----------
    plan : Plan
    played_s : float, s
        From the plan's start.
    counts : sequence of int
        Where each axis stands, in steps from position 0.

    Returns
    -------
    Routine or None
        It starts where the axes stand: those that were moving at their counts, the others exactly where they were
        commanded. The move that was cut short goes to its own target, so that all that follows is as exact as before.
    """
    names = [axis.name for axis in plan.axes]
    left = [k for k, block in enumerate(plan.blocks) if block.end_s > played_s]
    if not left:
        return None
    commanded, first = list(walk(plan.machine, plan.routine)), plan.blocks[left[0]]
    now, rest = commanded[left[0]], [plan.blocks[k].block for k in left[1:]]
    begun, here = first.begin_s < played_s, now.before
    head: Block = first.block
    if begun and isinstance(head, Move):
        head = _to_target(head, now, names)
        stands = (Fraction(count) / axis.steps_per_unit for count, axis in zip(counts, plan.axes, strict=True))
        # Beside the end of the path by less than half a step, an axis could stand beyond a limit of its own.
        places = zip(now.before, now.after, stands, strict=True)
        here = tuple(min(max(stand, min(ends)), max(ends)) for *ends, stand in places)
    elif begun and isinstance(head, Pause):
        head = replace(head, seconds=first.end_s - played_s)
    start = {name: as_decimal(place) for name, place in zip(names, here, strict=True)}
    return Routine(name=plan.routine.name, start=start or None, blocks=(head, *rest))


def _to_target(block: Move, commanded: Commanded, names: Sequence[str]) -> Move:
    moved = [k for k, (a, b) in enumerate(zip(commanded.before, commanded.after, strict=True)) if a != b]
    return replace(block, to={names[k]: as_decimal(commanded.after[k]) for k in moved}, by=None)
