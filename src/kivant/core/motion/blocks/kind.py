"""What every kind of block is to the rest of the core: one record, and the rows it is laid into."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Any, Protocol

from kivant.core.errors import Fault
from kivant.core.fields import Part
from kivant.core.path import Path

Targets = Mapping[str, Decimal]
"""Positions by axis name, in axis units."""


class Block(Part):
    """One entry of a routine; ``do`` names its kind."""

    __slots__ = ()
    do: str


class Rows(Protocol):
    """What blocks are laid into, one behind the other; a block is number `index` of what lies at the path `parent`.

    ``names`` are those of all axes.
    """

    names: Sequence[str]

    def rest(self, block: Any, parent: Path, index: int, seconds: float) -> None:
        """Let all axes rest for so many seconds."""

    def move(
        self, block: Any, parent: Path, index: int, to: Targets | None, by: Targets | None, speed_factor: float
    ) -> None:
        """Move axes straight and together: `to` positions, or `by` so much from where they were commanded last."""


@dataclass(frozen=True, slots=True)
class BlockKind:
    """All that the core knows of a kind of block; every callable takes the block first.

    Parameters
    ----------
    type : type
        The data of one block of this kind.
    moves : bool
        Whether it moves axes.
    lay : callable (block, parent, index, rows)
        Lays what it commands into rows.
    words : callable (block, names)
        What it does, in a few words; `names` holds what each axis is to be called, in their order.
    mentions : callable
        The names of axes in it, each with its path in the block.
    renamed : callable (block, old, new)
        The block with another name of an axis, or (None) without that axis; None where nothing of it is left.
    faults : callable (block, path)
        What is wrong with it that only shows when several of its keys are seen together.
    """

    type: type[Block]
    lay: Callable[[Any, Path, int, Rows], None]
    words: Callable[[Any, Mapping[str, str]], str]
    moves: bool = False
    mentions: Callable[[Any], Iterator[tuple[Path, str]]] = lambda _block: iter(())
    renamed: Callable[[Any, str, str | None], Block | None] = lambda block, _old, _new: block
    faults: Callable[[Any, Path], Iterator[Fault]] = lambda _block, _path: iter(())
