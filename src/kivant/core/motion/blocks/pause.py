"""A pause: every axis rests."""

from __future__ import annotations

from typing import Literal

from kivant.core.fields import Extra, Seconds
from kivant.core.motion.blocks.kind import Block, BlockKind, Off, Own


class Pause(Block, frozen=True, kw_only=True):
    """Every axis rests for so many seconds."""

    do: Literal["pause"] = "pause"
    name: Own = None
    seconds: Seconds
    off: Off = None
    x: Extra = None


PAUSE = BlockKind(
    type=Pause,
    title="Pause",
    lay=lambda block, rows: rows.rest(block.seconds),
    words=lambda block, _names: f"pause of {block.seconds:g} s",
)
