"""Targets: what `move` and `each` have in common, absolute and relative positions by axis name."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any, Protocol

from msgspec.structs import replace

from kivant.core.errors import Fault
from kivant.core.motion.blocks.kind import Block, Referred, Targets, renamed_values
from kivant.core.path import Path


class Aimed(Protocol):
    """A block with targets."""

    @property
    def to(self) -> Targets | None:
        """Absolute targets."""

    @property
    def by(self) -> Targets | None:
        """Relative ones."""


def mentions(block: Aimed) -> Iterator[tuple[Path, str]]:
    """Yield the axes of the targets, each with its path in the block."""
    for key, targets in (("to", block.to), ("by", block.by)):
        for name in targets or {}:
            yield Path((key, name)), name


def words(block: Aimed, names: Mapping[str, str]) -> str:
    """Return what the axes of the targets are called."""
    moved = {name for _path, name in mentions(block)}
    return " + ".join(called for name, called in names.items() if name in moved)


def renamed(block: Any, what: Referred, old: str, new: str | None) -> Block | None:
    """Return the block with another name of an axis, or (None) without that axis; None where it has no target left."""
    if what != "axis" or all(name != old for _path, name in mentions(block)):
        found: Block = block
        return found
    made = replace(block, to=renamed_values(block.to, old, new), by=renamed_values(block.by, old, new))
    return made if made.to or made.by else None


def faults(block: Aimed, path: Path, what: str) -> Iterator[Fault]:
    """Yield what is wrong with the targets of a block, which is called `what`."""
    to, by = block.to or {}, block.by or {}
    if not to and not by:
        yield Fault(path, f"{what} names no axis.", 'Name at least one in "to" or "by", such as {"Lift": 10}.')
    for name in to.keys() & by.keys():
        yield Fault(path / "by" / name, f"{name} is also in “to”.", "Keep one of the two.")
