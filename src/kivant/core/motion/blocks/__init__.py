"""The kinds of blocks: one module for each, and the table of them all."""

from __future__ import annotations

from kivant.core.motion.blocks.call import CALL, Call
from kivant.core.motion.blocks.each import EACH, Each
from kivant.core.motion.blocks.kind import BLOCKS, Block, BlockKind, Rows, block_kind, renamed_in, walk
from kivant.core.motion.blocks.move import MOVE, Move
from kivant.core.motion.blocks.note import NOTE, Note
from kivant.core.motion.blocks.pause import PAUSE, Pause
from kivant.core.motion.blocks.repeat import REPEAT, Repeat
from kivant.core.motion.blocks.spin import SPIN, Spin

__all__ = [
    "BLOCKS", "Block", "BlockKind", "Call", "Each", "Move", "Note", "Pause", "Repeat", "Rows", "Spin", "block_kind",
    "renamed_in", "walk",
]  # fmt: skip

BLOCKS |= {
    "move": MOVE, "each": EACH, "spin": SPIN, "pause": PAUSE, "repeat": REPEAT, "call": CALL, "note": NOTE,
}  # fmt: skip
