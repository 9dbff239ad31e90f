"""Targets of single axes, as they are typed in a table of positions: ``40``, ``0.25rev``, ``by -5mm``, or nothing."""

from __future__ import annotations

from decimal import Decimal

from msgspec.structs import replace

from kivant.core import quantity
from kivant.core.errors import Fault, ValueTextError
from kivant.core.machine.parts import Axis
from kivant.core.motion.blocks import Block, Each, Move
from kivant.core.program.sentences import number


def target_text(block: Block, axis: Axis) -> str:
    """Return what a block tells an axis, as it is typed; an empty text where it does not name it."""
    if not isinstance(block, Move | Each):
        return ""
    if axis.name in (block.to or {}):
        return f"{number((block.to or {})[axis.name])} {axis.unit}"
    if axis.name in (block.by or {}):
        return f"by {number((block.by or {})[axis.name])} {axis.unit}"
    return ""


def with_target(block: Block, axis: Axis, text: str) -> Block:
    """Return a move in which an axis has the target that a text means; without the axis, where the text is empty.

    Raises
    ------
    ValueTextError
        If the text cannot be understood, the block is no move with targets, or no axis would be left in it.
    """
    elsewhere = getattr(block, "pose", None) is not None or getattr(block, "tool", None) is not None
    if not isinstance(block, Move | Each) or elsewhere:
        message = "Only a move with targets has positions of its own."
        raise ValueTextError(Fault(axis.name, message, "Change this block in its line."))
    typed = text.strip()
    to, by = dict(block.to or {}), dict(block.by or {})
    relative = typed.startswith("by ")
    for targets in (to, by):
        if not typed or (targets is to) == relative:
            targets.pop(axis.name, None)
    if typed:
        value: Decimal = quantity.as_decimal(quantity.position(axis).parse(typed.removeprefix("by ")))
        (by if relative else to)[axis.name] = value
    if not to and not by:
        raise ValueTextError(Fault(axis.name, "No axis would be left in this move.", "Delete the block instead."))
    return replace(block, to=to or None, by=by or None)
