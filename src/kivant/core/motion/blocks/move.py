"""A coordinated move: straight in axis coordinates, all axes start and end together."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Annotated, Literal

from kivant.core.errors import Fault
from kivant.core.fields import About, Extra, Factor, Positions
from kivant.core.motion.blocks.kind import Block, BlockKind, Rows
from kivant.core.path import Path


@dataclass(frozen=True, slots=True, kw_only=True)
class Move(Block):
    """A coordinated move: ``to`` absolute and ``by`` relative targets, by axis name, in axis units."""

    do: Literal["move"] = "move"
    to: Annotated[Positions | None, About("Absolute targets")] = None
    by: Annotated[Positions | None, About("Relative to the last commanded position")] = None
    speed_factor: Annotated[Factor | None, About("Scales the speed")] = None
    x: Extra = None


def _lay(block: Move, parent: Path, index: int, rows: Rows) -> None:
    factor = 1.0 if block.speed_factor is None else block.speed_factor
    rows.move(block, parent, index, block.to, block.by, factor)


def _mentions(block: Move) -> Iterator[tuple[Path, str]]:
    for key, targets in (("to", block.to), ("by", block.by)):
        for name in targets or {}:
            yield Path((key, name)), name


def _words(block: Move, names: Mapping[str, str]) -> str:
    moved = {name for _path, name in _mentions(block)}
    return " + ".join(called for name, called in names.items() if name in moved)


def renamed_targets(targets: Mapping[str, Decimal] | None, old: str, new: str | None) -> Mapping[str, Decimal] | None:
    """Return targets in which an axis has another name, or (None) is not named any more; None if none are left."""
    kept = {(new if name == old else name): value for name, value in (targets or {}).items() if name != old or new}
    return {name: value for name, value in kept.items() if name is not None} or None


def _renamed(block: Move, old: str, new: str | None) -> Move | None:
    if all(name != old for _path, name in _mentions(block)):
        return block
    made = replace(block, to=renamed_targets(block.to, old, new), by=renamed_targets(block.by, old, new))
    return made if made.to or made.by else None


def _faults(block: Move, path: Path) -> Iterator[Fault]:
    to, by = block.to or {}, block.by or {}
    if not to and not by:
        yield Fault(path, "The move names no axis.", 'Name at least one in "to" or "by", such as {"Lift": 10}.')
    for name in to.keys() & by.keys():
        yield Fault(path / "by" / name, f"{name} is also in “to”.", "Keep one of the two.")


MOVE = BlockKind(
    type=Move,
    moves=True,
    lay=_lay,
    words=_words,
    mentions=_mentions,
    renamed=_renamed,
    faults=_faults,
)
