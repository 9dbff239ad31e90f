"""Blocks that are done several times, one turn behind the other."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Any, Literal

from msgspec.structs import replace

from kivant.core.bounds import MaxLen
from kivant.core.fields import About, Count, Extra, Tagged
from kivant.core.motion.blocks.kind import BLOCKS, Block, BlockKind, Counter, Off, Own, Referred, renamed_in, walk
from kivant.core.path import Path


class Repeat(Block, frozen=True, kw_only=True):
    """The blocks inside are done so many times."""

    do: Literal["repeat"] = "repeat"
    name: Own = None
    times: Annotated[Count, About("How often")]
    blocks: Annotated[tuple[Annotated[Block, Tagged("do", BLOCKS)], ...], MaxLen(1_000_000)] = ()
    off: Off = None
    x: Extra = None


def _inside(block: Repeat) -> tuple[Block, ...]:
    return block.blocks


def _rows(block: Repeat, counter: Counter) -> int:
    return block.times * counter.inside(block.blocks)


def _mentions(block: Repeat) -> Iterator[tuple[Path, str]]:
    for path, inner in walk(block.blocks, Path.of("blocks")):
        if not isinstance(inner, Repeat):
            for within, name in BLOCKS[inner.do].mentions(inner):
                yield path / within, name


def _renamed(block: Repeat, what: Referred, old: str, new: str | None) -> Repeat | None:
    blocks = renamed_in(block.blocks, what, old, new)
    return replace(block, blocks=blocks) if blocks or not block.blocks else None


def _filled(block: Any, blocks: tuple[Block, ...]) -> Block:
    found: Block = replace(block, blocks=blocks)
    return found


REPEAT = BlockKind(
    type=Repeat,
    title="Repeat",
    lay=lambda block, rows: rows.repeat(block.times, block.blocks),
    words=lambda block, _names: f"{block.times} times",
    mentions=_mentions,
    renamed=_renamed,
    rows=_rows,
    inside=_inside,
    filled=_filled,
)
