"""What every kind of block is to the rest of the core: one record, and the builder it is laid into a plan with."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from fractions import Fraction
from typing import Any, NamedTuple, Protocol

from kivant.core.errors import Fault
from kivant.core.fields import Part
from kivant.core.path import Path


class Block(Part):
    """One entry of a routine; ``do`` names its kind."""

    __slots__ = ()
    do: str


class Commanded(NamedTuple):
    """Exact positions before and after one block, in axis units, in the order of the machine's axes.

    ``path`` leads from the routine to the block: ``blocks[2]``.
    """

    path: Path
    block: Block
    before: tuple[Fraction, ...]
    after: tuple[Fraction, ...]


class Builder(Protocol):
    """What blocks are laid into a plan with, one behind the other."""

    def rest(self, commanded: Commanded, seconds: float) -> None:
        """Let all axes rest for so many seconds."""

    def move(self, commanded: Commanded, speed_factor: float) -> None:
        """Move all axes straight to where the block commands them, together."""


@dataclass(frozen=True, slots=True)
class BlockKind:
    """All that the core knows of a kind of block; every callable takes the block first.

    Parameters
    ----------
    type : type
        The data of one block of this kind.
    moves : bool
        Whether it moves axes.
    command : callable (block, positions, index_of)
        Changes the list of exact positions, in axis units, to what it commands; `index_of` tells the place of an
        axis by its name. None: it commands nothing.
    lay : callable (block, commanded, builder)
        Lays it into a plan.
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
    lay: Callable[[Any, Commanded, Builder], None]
    words: Callable[[Any, Mapping[str, str]], str]
    moves: bool = False
    command: Callable[[Any, list[Fraction], Mapping[str, int]], None] | None = None
    mentions: Callable[[Any], Iterator[tuple[Path, str]]] = lambda _block: iter(())
    renamed: Callable[[Any, str, str | None], Block | None] = lambda block, _old, _new: block
    faults: Callable[[Any, Path], Iterator[Fault]] = lambda _block, _path: iter(())
