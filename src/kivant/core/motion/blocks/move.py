"""A coordinated move: straight in axis coordinates, all axes start and end together."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from typing import Annotated, Literal

from kivant.core.errors import Fault
from kivant.core.fields import About, Extra, Factor, Name, Positions
from kivant.core.motion.blocks import targets
from kivant.core.motion.blocks.kind import Block, BlockKind, Off, Own, Referred, Rows
from kivant.core.path import Path


@dataclass(frozen=True, slots=True, kw_only=True)
class Move(Block):
    """A coordinated move: ``to`` absolute and ``by`` relative targets by axis name, in axis units, or a pose."""

    do: Literal["move"] = "move"
    name: Own = None
    to: Annotated[Positions | None, About("Absolute targets")] = None
    by: Annotated[Positions | None, About("Relative to the last commanded position")] = None
    pose: Annotated[Name | None, About("A pose by name, in place of targets")] = None
    speed_factor: Annotated[Factor | None, About("Scales the speed")] = None
    off: Off = None
    x: Extra = None


def _lay(block: Move, rows: Rows) -> None:
    factor = 1.0 if block.speed_factor is None else block.speed_factor
    rows.move(block.to if block.pose is None else rows.poses[block.pose], block.by, factor)


def _words(block: Move, names: Mapping[str, str]) -> str:
    return targets.words(block, names) if block.pose is None else block.pose


def _refers(block: Move) -> Iterator[tuple[Path, Referred, str]]:
    if block.pose is not None:
        yield Path.of("pose"), "pose", block.pose


def _renamed(block: Move, what: Referred, old: str, new: str | None) -> Block | None:
    if block.pose is None:
        return targets.renamed(block, what, old, new)
    if what != "pose" or block.pose != old:
        return block
    return replace(block, pose=new) if new else None


def _faults(block: Move, path: Path) -> Iterator[Fault]:
    if block.pose is None:
        yield from targets.faults(block, path, "The move")
    elif block.to or block.by:
        yield Fault(path / "pose", "The move names a pose and targets.", "Keep one of the two.")


MOVE = BlockKind(
    type=Move,
    title="Move",
    moves=True,
    lay=_lay,
    words=_words,
    mentions=targets.mentions,
    refers=_refers,
    renamed=_renamed,
    faults=_faults,
)
