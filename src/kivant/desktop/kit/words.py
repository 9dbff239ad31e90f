"""What the parts of a plan are called in the window."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal

from kivant.core.machine.parts import Machine
from kivant.core.motion.blocks import Block, block_kind
from kivant.core.motion.plan import Plan, PlannedBlock
from kivant.core.motion.routine import block_number
from kivant.core.program.sentences import positions_words, units_of
from kivant.desktop.kit.figures import MINUS, letters, signed


def block_words(plan: Plan, block: PlannedBlock) -> str:
    """Return which block it is, and what it does."""
    names = {axis.name: axis.name for axis in plan.axes}
    return f"block {block_number(block.path)}: {signed(block_kind(block.block).words(block.block, names))}"


def block_labels(machine: Machine, block: Block) -> tuple[str, str]:
    """Return what a block does, briefly and as briefly as can be: the name of a single axis, or letters."""
    kind = block_kind(block)
    if not kind.moves:
        return block.do, block.do
    named = {axis.name: axis.name for axis in machine.axes}
    lettered = dict(zip(named, letters(machine), strict=True))
    single = len({name for _path, name in kind.mentions(block)}) <= 1
    return signed(kind.words(block, named if single else lettered)), signed(kind.words(block, lettered))


def places_words(machine: Machine, positions: Mapping[str, Decimal]) -> str:
    """Return where axes are as a line that can be typed at: names stay as they are."""
    return positions_words(positions, units_of(machine)).replace(" at -", f" at {MINUS}")
