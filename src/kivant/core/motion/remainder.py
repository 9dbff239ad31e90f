"""The remainder of a plan: the routine that goes on from where a motion was stopped on its path."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from decimal import Decimal, localcontext
from fractions import Fraction
from typing import Any

import numpy as np
from msgspec.structs import replace

from kivant.core.fields import EXACT_DIGITS
from kivant.core.machine.parts import Routine
from kivant.core.motion.blocks import Block, Each, Move, Pause, Spin
from kivant.core.motion.blocks.kind import Targets
from kivant.core.motion.lines.line import Line
from kivant.core.motion.plan import Plan
from kivant.core.motion.routine import commands
from kivant.core.quantity import as_decimal
from kivant.core.travel.conversion import nearest_step

_OTHER = 1.0  # of an axis unit: an end that is farther away is another one
_DIGITS = 9  # of where axes are on a line


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
        commanded. The move that was cut short goes to its own target, so that all that follows is as exact as before;
        near a centre, a move back onto a line of the tool may come before it.
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
    heads = [head]
    if begun and not isinstance(head, Pause):
        # On a spin or a line of the tool an axis may turn round, and be beyond both of its ends.
        turns = isinstance(head, Spin) or bool(getattr(head, "straight", None))
        steps = (count - axis.beside_at(played_s) for count, axis in zip(counts, plan.axes, strict=True))
        places = zip(steps, plan.axes, before, after, strict=True)
        here = tuple(_stands(step, axis.steps_per_unit, ends, turns=turns) for step, axis, *ends in places)
    start = dict(zip(names, map(as_decimal, here), strict=True))
    if begun:
        left_s = first.end_s - played_s
        ends = {name: as_decimal(b) for name, a, b in zip(names, before, after, strict=True) if a != b}
        heads = [_HEADS[type(head)](head, left_s, ends, _wrapping(plan), start)]
        if row in commanded.lines:
            left = replace(plan.routine, start=start, blocks=(head,))
            heads = [*_onto(plan, commanded.lines[row], played_s, left, after), head]
    return Routine(name=plan.routine.name, start=start or None, blocks=(*heads, *rest))


def _onto(
    plan: Plan, parts: Sequence[Line], played_s: float, left: Routine, ends: Sequence[Fraction]
) -> Iterator[Block]:
    """Yield a move by which axes go back onto their line, unless what is left of it brings them to its ends as it is.

    The axes stand beside it by less than a step. But that may be on the other side of the centre of a turntable: from
    there, the table would have to turn the other way round.
    """
    if not parts[0].tool.turning:
        return
    found = commands(plan.machine, left)
    places = zip(found.positions(1), ends, strict=True)
    if not found.unreachable and all(abs(own - end) < _OTHER for own, end in places):
        return
    now = [axis.ideal_at(played_s) / float(axis.steps_per_unit) for axis in plan.axes]
    beside = [part.beside(now) for part in parts]
    at = min(range(len(parts)), key=lambda k: beside[k][0])
    far, share, _places = beside[at]
    if far > _OTHER and share == 1.0 and at + 1 < len(parts):  # it was turning to where the next part begins
        at += 1
    onto = beside[at][2]
    to = {}
    for axis in parts[0].axes:
        low, high = parts[0].tool.limits(axis)
        to[plan.axes[axis].name] = round(Decimal(repr(min(max(onto[axis], low), high))), _DIGITS)
    yield _aimed(Move(), 0.0, to, _wrapping(plan), left.start or {})


def _stands(step: int, ratio: Fraction, ends: Sequence[Fraction], *, turns: bool) -> Fraction:
    """Return where an axis stands at a step of a row: exactly where it was before, if that is the same step."""
    if nearest_step(ends[0] * ratio) == step:
        return ends[0]
    place = Fraction(step) / ratio
    # Beside the end of the path by less than half a step, an axis could stand beyond a limit of its own.
    return place if turns else min(max(place, min(ends)), max(ends))


def _wrapping(plan: Plan) -> set[str]:
    return {axis.name for axis in plan.axes if axis.axis.limits.wrap is not None}


def _aimed(head: Any, _left_s: float, ends: Targets, wraps: set[str], start: Targets) -> Block:
    """Return a move, or axes each by itself, to the same ends; a line of the tool goes on as one.

    An axis that wraps is told the way that is left: its target alone could be reached by another one.
    """
    if isinstance(head, Move) and head.straight:
        return head
    with localcontext() as context:
        context.prec = EXACT_DIGITS
        by = {name: end - start[name] for name, end in ends.items() if name in wraps}
    to = {name: end for name, end in ends.items() if name not in wraps}
    made = replace(head, pose=None, tool=None) if isinstance(head, Move) else head
    found: Block = replace(made, to=to or None, by=by or None)
    return found


def _paused(head: Any, left_s: float, *_rest: object) -> Block:
    found: Block = replace(head, seconds=left_s)
    return found


def _spun(head: Any, left_s: float, *_rest: object) -> Block:
    """Return a spin for the time that is left: it begins at rest, so that it goes less far than it would have."""
    found: Block = replace(head, seconds=left_s, turns=None, distance=None)
    return found


_HEADS: dict[type[Block], Callable[..., Block]] = {Move: _aimed, Each: _aimed, Pause: _paused, Spin: _spun}
