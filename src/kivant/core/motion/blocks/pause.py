"""A pause: every axis rests."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from kivant.core.fields import Extra, Seconds
from kivant.core.motion.blocks.kind import Block, BlockKind


@dataclass(frozen=True, slots=True, kw_only=True)
class Pause(Block):
    """Every axis rests for so many seconds."""

    do: Literal["pause"] = "pause"
    seconds: Seconds
    x: Extra = None


PAUSE = BlockKind(
    type=Pause,
    lay=lambda block, parent, index, rows: rows.rest(block, parent, index, block.seconds),
    words=lambda block, _names: f"pause of {block.seconds:g} s",
)
