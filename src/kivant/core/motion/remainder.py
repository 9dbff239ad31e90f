"""The remainder of a plan: the routine that goes on from where a motion was stopped on its path."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from decimal import localcontext
from fractions import Fraction

import numpy as np

from kivant.core.fields import EXACT_DIGITS
from kivant.core.machine.parts import Routine
from kivant.core.motion.blocks import Block, Move, Pause
from kivant.core.motion.plan import Plan
from kivant.core.motion.routine import commands
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
    row = int(np.searchsorted(plan.blocks.end_s, played_s, "right"))
    if row == len(plan.blocks):
        return None
    names, first = [axis.name for axis in plan.axes], plan.blocks[row]
    commanded = commands(plan.machine, plan.routine)
    before, after = commanded.positions(row), commanded.positions(row + 1)
    rest = [block.block for block in plan.blocks[row + 1 :]]
    begun, here = first.begin_s < played_s, before
    head: Block = first.block
    if begun and isinstance(head, Move):
        at = np.array(played_s)
        stands = (
            Fraction(count - int(axis.taken.at(at)[1])) / axis.steps_per_unit
            for count, axis in zip(counts, plan.axes, strict=True)
        )
        # Beside the end of the path by less than half a step, an axis could stand beyond a limit of its own.
        places = zip(before, after, stands, strict=True)
        here = tuple(min(max(stand, min(ends)), max(ends)) for *ends, stand in places)
    elif begun and isinstance(head, Pause):
        head = replace(head, seconds=first.end_s - played_s)
    start = {name: as_decimal(place) for name, place in zip(names, here, strict=True)}
    if begun and isinstance(head, Move):
        # An axis that wraps is told the way that is left: its target alone could be reached by another one.
        ends = {axis.name: as_decimal(b) for axis, a, b in zip(plan.axes, before, after, strict=True) if a != b}
        wraps = {axis.name for axis in plan.axes if axis.axis.limits.wrap is not None}
        with localcontext() as context:
            context.prec = EXACT_DIGITS
            by = {name: end - start[name] for name, end in ends.items() if name in wraps}
        to = {name: end for name, end in ends.items() if name not in wraps}
        head = replace(head, to=to or None, by=by or None)
    return Routine(name=plan.routine.name, start=start or None, blocks=(head, *rest))
