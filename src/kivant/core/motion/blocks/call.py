"""Another routine, done here."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Literal

from msgspec.structs import replace

from kivant.core.fields import About, Extra, Name
from kivant.core.motion.blocks.kind import Block, BlockKind, Off, Own, Referred
from kivant.core.path import Path


class Call(Block, frozen=True, kw_only=True):
    """Another routine of the machine is done from where the axes stand; its own start is not looked at."""

    do: Literal["call"] = "call"
    name: Own = None
    routine: Annotated[Name, About("Which routine")]
    off: Off = None
    x: Extra = None


def _refers(block: Call) -> Iterator[tuple[Path, Referred, str]]:
    yield Path.of("routine"), "routine", block.routine


def _renamed(block: Call, what: Referred, old: str, new: str | None) -> Call | None:
    if what != "routine" or block.routine != old:
        return block
    return replace(block, routine=new) if new else None


CALL = BlockKind(
    type=Call,
    title="Call",
    lay=lambda block, rows: rows.call(block.routine),
    words=lambda block, _names: block.routine,
    refers=_refers,
    renamed=_renamed,
    rows=lambda block, counter: counter.routine(block.routine),
)
