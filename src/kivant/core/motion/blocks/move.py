"""A coordinated move: straight in axis coordinates, all axes start and end together."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Annotated, Literal

from msgspec.structs import replace

from kivant.core.errors import Fault
from kivant.core.fields import About, Extra, Factor, Name, Positions, Positive
from kivant.core.motion.blocks import targets
from kivant.core.motion.blocks.kind import Block, BlockKind, Off, Own, Paced, Referred, Rows
from kivant.core.path import Path


class Move(Paced, frozen=True, kw_only=True):
    """A coordinated move: ``to`` absolute and ``by`` relative targets by axis name, in axis units, or a pose."""

    do: Literal["move"] = "move"
    name: Own = None
    to: Annotated[Positions | None, About("Absolute targets")] = None
    by: Annotated[Positions | None, About("Relative to the last commanded position")] = None
    pose: Annotated[Name | None, About("A pose by name, in place of targets")] = None
    tool: Annotated[Positions | None, About("A place of the tool by its coordinates, in place of targets")] = None
    straight: Annotated[bool | None, About("Whether the tool goes straight, and not the axes")] = None
    tolerance: Annotated[Positive | None, About("How far the tool may be off its line; left out: 0.05", "mm")] = None
    speed_factor: Annotated[Factor | None, About("Scales the speed")] = None
    off: Off = None
    x: Extra = None


def _lay(block: Move, rows: Rows) -> None:
    if block.tool is not None:
        rows.move_to(block.tool, block.factor, straight=bool(block.straight))
    else:
        rows.move(block.to if block.pose is None else rows.poses[block.pose], block.by, block.factor)


def _words(block: Move, names: Mapping[str, str]) -> str:
    if block.tool is not None:
        return ", ".join(f"{name} {value:f}" for name, value in block.tool.items())
    return targets.words(block, names) if block.pose is None else block.pose


def _refers(block: Move) -> Iterator[tuple[Path, Referred, str]]:
    if block.pose is not None:
        yield Path.of("pose"), "pose", block.pose


def _renamed(block: Move, what: Referred, old: str, new: str | None) -> Block | None:
    if block.tool is not None:
        return block
    if block.pose is None:
        return targets.renamed(block, what, old, new)
    if what != "pose" or block.pose != old:
        return block
    return replace(block, pose=new) if new else None


def _faults(block: Move, path: Path) -> Iterator[Fault]:
    if block.tool is None and (block.straight or block.tolerance is not None):
        key = "straight" if block.straight else "tolerance"
        yield Fault(path / key, "Only the tool goes straight, to a place of its own.", 'Give "tool", or leave it out.')
    elsewhere = [key for key in ("pose", "tool") if getattr(block, key) is not None]
    if not elsewhere:
        yield from targets.faults(block, path, "The move")
    elif len(elsewhere) > 1 or block.to or block.by:
        both = "a pose and a place of the tool" if len(elsewhere) > 1 else "targets and a pose or a place of the tool"
        yield Fault(path / elsewhere[-1], f"The move names {both}.", "Keep one of them.")


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
