"""A note: text for people, between the blocks."""

from __future__ import annotations

from typing import Annotated, Literal

from kivant.core.bounds import MaxLen
from kivant.core.fields import Extra
from kivant.core.motion.blocks.kind import Block, BlockKind, Off, Own


class Note(Block, frozen=True, kw_only=True):
    """Text for people; nothing moves and no time passes."""

    do: Literal["note"] = "note"
    name: Own = None
    text: Annotated[str, MaxLen(10_000)] = ""
    off: Off = None
    x: Extra = None


NOTE = BlockKind(
    type=Note,
    title="Note",
    lay=lambda _block, _rows: None,
    words=lambda block, _names: block.text,
    rows=lambda _block, _counter: 0,
)
