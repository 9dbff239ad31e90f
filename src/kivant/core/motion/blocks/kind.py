"""What every kind of block is to the rest of the core: one record, and the rows it is laid into."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from decimal import Decimal
from typing import TYPE_CHECKING, Annotated, Any, Literal, Protocol

from msgspec import Struct

from kivant.core.errors import Fault
from kivant.core.fields import About, Name, Part
from kivant.core.path import Path

Targets = Mapping[str, Decimal]
"""Positions by axis name, in axis units."""

Referred = Literal["axis", "pose", "routine"]
"""What a block can name."""


class Block(Part, frozen=True, kw_only=True):
    """One entry of a routine; ``do`` names its kind."""

    if TYPE_CHECKING:
        do: str
        name: str | None
        off: bool | None


class Paced(Block, frozen=True, kw_only=True):
    """A block that moves axes at speeds which can be scaled."""

    if TYPE_CHECKING:
        speed_factor: float | None

    @property
    def factor(self) -> float:
        """By how much the speeds are scaled."""
        return 1.0 if self.speed_factor is None else self.speed_factor


Own = Annotated[Name | None, About("What it is called")]
"""The field of every block that holds a name of its own."""
Off = Annotated[bool | None, About("Whether it is left out")]
"""The field of every block that switches it off; left out, it is on."""

BLOCKS: dict[str, BlockKind] = {}
"""Every kind by the value of the key ``do``, in the order in which they are offered; filled by the package."""


class Rows(Protocol):
    """What blocks are laid into, one behind the other: a row is what axes do at once."""

    @property
    def names(self) -> Sequence[str]:
        """The names of all axes."""

    @property
    def poses(self) -> Mapping[str, Targets]:
        """All poses by name."""

    def rest(self, seconds: float) -> None:
        """Let all axes rest for so many seconds."""

    def move(self, to: Targets | None, by: Targets | None, speed_factor: float) -> int:
        """Move axes straight and together: `to` positions, or `by` so much from where they were; return the row."""

    def move_apart(self, to: Targets | None, by: Targets | None, speed_factor: float) -> None:
        """Move axes each by itself."""

    def move_to(self, place: Targets, speed_factor: float, *, straight: bool) -> None:
        """Move the tool to a place, straight if wanted; where no positions put it there, that is a fault of the row."""

    def spin(self) -> None:
        """Turn axes at speeds; what lies between two of them is found when all are laid."""

    def repeat(self, times: int, blocks: Sequence[Block]) -> None:
        """Lay what is inside of the block so many times."""

    def call(self, routine: str) -> None:
        """Lay another routine's blocks."""


class Counter(Protocol):
    """Counts the rows that blocks are laid into, before they are."""

    def inside(self, blocks: Sequence[Block]) -> int:
        """Return how many rows some blocks make."""

    def routine(self, name: str) -> int:
        """Return how many rows a routine makes."""


def _one(_block: Any, _counter: Counter) -> int:
    return 1


class BlockKind(Struct, frozen=True):
    """All that the core knows of a kind of block; every callable takes the block first.

    Parameters
    ----------
    type : type
        The data of one block of this kind.
    title : str
        What it is called where it is offered.
    lay : callable (block, rows)
        Lays what it commands into rows.
    words : callable (block, names)
        What it does, in a few words; `names` holds what each axis is to be called, in their order.
    moves : bool
        Whether it moves axes by itself.
    mentions : callable
        The names of axes in it, each with its path in the block.
    refers : callable
        The names of poses and routines in it, each with its path and what it names.
    renamed : callable (block, what, old, new)
        The block with another name of something, or (None) without it; None where nothing of it is left.
    faults : callable (block, path)
        What is wrong with it that only shows when several of its keys are seen together.
    rows : callable (block, counter)
        How many rows it makes.
    inside : callable
        The blocks in it; empty where there are none.
    filled : callable (block, blocks)
        The block with others inside; None where it holds none.
    """

    type: type[Block]
    title: str
    lay: Callable[[Any, Rows], None]
    words: Callable[[Any, Mapping[str, str]], str]
    moves: bool = False
    mentions: Callable[[Any], Iterator[tuple[Path, str]]] = lambda _block: iter(())
    refers: Callable[[Any], Iterator[tuple[Path, Referred, str]]] = lambda _block: iter(())
    renamed: Callable[[Any, Referred, str, str | None], Block | None] = lambda block, _what, _old, _new: block
    faults: Callable[[Any, Path], Iterator[Fault]] = lambda _block, _path: iter(())
    rows: Callable[[Any, Counter], int] = _one
    inside: Callable[[Any], tuple[Block, ...]] = lambda _block: ()
    filled: Callable[[Any, tuple[Block, ...]], Block] | None = None


def block_kind(block: Block) -> BlockKind:
    """Return the record of a block's kind."""
    return BLOCKS[block.do]


def walk(blocks: Sequence[Block], path: Path) -> Iterator[tuple[Path, Block]]:
    """Yield every block with its path, those inside of one right behind it; `path` is that of the blocks."""
    for index, block in enumerate(blocks):
        yield path / index, block
        inside = block_kind(block).inside(block)
        if inside:
            yield from walk(inside, path / index / "blocks")


def renamed_in(blocks: Sequence[Block], what: Referred, old: str, new: str | None) -> tuple[Block, ...]:
    """Return blocks in which something has another name, or (None) is not named any more."""
    found = (block_kind(block).renamed(block, what, old, new) for block in blocks)
    return tuple(block for block in found if block is not None)


def renamed_values(values: Targets | None, old: str, new: str | None) -> Targets | None:
    """Return numbers by axis name where an axis has another name, or (None) is not named any more; None if none are."""
    kept = {(new if name == old else name): value for name, value in (values or {}).items() if name != old or new}
    return {name: value for name, value in kept.items() if name is not None} or None
