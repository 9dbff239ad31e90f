"""Axes that move at once, each at its own best speed: none waits for another."""

from __future__ import annotations

from typing import Annotated, Literal

from kivant.core.fields import About, Extra, Factor, Positions
from kivant.core.motion.blocks import targets
from kivant.core.motion.blocks.kind import BlockKind, Off, Own, Paced, Rows


class Each(Paced, frozen=True, kw_only=True):
    """Every axis named moves by itself, as fast as it can; the block ends when all have arrived."""

    do: Literal["each"] = "each"
    name: Own = None
    to: Annotated[Positions | None, About("Absolute targets")] = None
    by: Annotated[Positions | None, About("Relative to the last commanded position")] = None
    speed_factor: Annotated[Factor | None, About("Scales the speeds")] = None
    off: Off = None
    x: Extra = None


def _lay(block: Each, rows: Rows) -> None:
    rows.move_apart(block.to, block.by, block.factor)


EACH = BlockKind(
    type=Each,
    title="Each by itself",
    moves=True,
    lay=_lay,
    words=targets.words,
    mentions=targets.mentions,
    renamed=targets.renamed,
    faults=lambda block, path: targets.faults(block, path, "“each”"),
)
