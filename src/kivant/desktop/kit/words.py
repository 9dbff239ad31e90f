"""What the parts of a plan are called in the window."""

from __future__ import annotations

from kivant.core.motion.blocks import block_kind
from kivant.core.motion.plan import Plan, PlannedBlock
from kivant.core.motion.routine import block_number
from kivant.desktop.kit.figures import letters, signed


def block_words(plan: Plan, block: PlannedBlock) -> str:
    """Return which block it is, and what it does."""
    names = {axis.name: axis.name for axis in plan.axes}
    return f"block {block_number(block.path)}: {signed(block_kind(block.block).words(block.block, names))}"


def block_label(plan: Plan, block: PlannedBlock) -> str:
    """Return what a block does, as briefly as can be: the letters of its axes, or the name of a single one."""
    kind = block_kind(block.block)
    mentioned = {name for _path, name in kind.mentions(block.block)}
    called = letters(plan.machine) if len(mentioned) > 1 else tuple(axis.name for axis in plan.axes)
    names = dict(zip((axis.name for axis in plan.axes), called, strict=True))
    return signed(kind.words(block.block, names)) if kind.moves else block.block.do
