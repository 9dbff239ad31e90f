"""The kinds of blocks: one module for each, and the table of them all."""

from __future__ import annotations

from kivant.core.motion.blocks.kind import Block, BlockKind, Rows
from kivant.core.motion.blocks.move import MOVE, Move
from kivant.core.motion.blocks.pause import PAUSE, Pause

__all__ = ["BLOCKS", "Block", "BlockKind", "Move", "Pause", "Rows", "block_kind"]

BLOCKS: dict[str, BlockKind] = {"move": MOVE, "pause": PAUSE}
"""Every kind by the value of the key ``do``, in the order in which they are offered."""


def block_kind(block: Block) -> BlockKind:
    """Return the record of a block's kind."""
    return BLOCKS[block.do]
