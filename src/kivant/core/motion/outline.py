"""The outline of a routine: every block it is made of, where each stands, and which rows it is laid into."""

from __future__ import annotations

from array import array
from bisect import bisect_right
from functools import partial

from msgspec import Struct, field

from kivant.core.motion.blocks import Block
from kivant.core.path import Path

_CALLED = -1  # the index of what is laid by a call: its place is that of the call
_entries = partial(array, "i")


class Places(Struct):
    """Of which block each row is, and where that stands in the routine.

    Blocks are entries, each once, however often it is repeated; ``first`` and ``end`` are the rows of the first turn
    (of a repeat those of all its turns). ``of`` holds the entry of every row. ``parents`` are the paths of what blocks
    lie in, each from the entry in ``since`` on, as most lie where the one before them does, and ``indices`` say where.
    """

    blocks: list[Block] = field(default_factory=list)
    parents: list[Path] = field(default_factory=list)
    since: array[int] = field(default_factory=_entries)
    indices: array[int] = field(default_factory=_entries)
    first: array[int] = field(default_factory=_entries)
    end: array[int] = field(default_factory=_entries)
    of: array[int] = field(default_factory=_entries)

    def __len__(self) -> int:
        """Return how many rows there are."""
        return len(self.of)

    def enter(self, block: Block, parent: Path, index: int | None) -> int:
        """Add a block, number `index` of what lies at `parent` (None: laid by a call, which is there)."""
        entry = len(self.blocks)
        self.blocks.append(block)
        if not self.parents or parent is not self.parents[-1]:
            self.parents.append(parent)
            self.since.append(entry)
        self.indices.append(_CALLED if index is None else index)
        self.first.append(len(self.of))
        self.end.append(len(self.of))
        return entry

    def leave(self, entry: int) -> None:
        """Say that all rows of a block are laid."""
        self.end[entry] = len(self.of)

    def add_row(self) -> int:
        """Add the next row, of the block that was entered last, and return its number."""
        self.of.append(len(self.blocks) - 1)
        return len(self.of) - 1

    def repeat(self, first: int, times: int) -> None:
        """Do the rows from `first` on so many times in all."""
        self.of += self.of[first:] * (times - 1)

    def block(self, row: int) -> Block:
        """Return the block of a row."""
        return self.blocks[self.of[row]]

    def parent(self, entry: int) -> Path:
        """Return the path of what a block lies in."""
        return self.parents[bisect_right(self.since, entry) - 1]

    def entry_path(self, entry: int) -> Path:
        """Return the path from the routine to a block; to the call, for what a call lays."""
        parent, index = self.parent(entry), self.indices[entry]
        return parent if index == _CALLED else parent / index

    def path(self, row: int) -> Path:
        """Return the path from the routine to the block of a row."""
        return self.entry_path(self.of[row])

    def is_called(self, row: int) -> bool:
        """Return whether a row was laid by a call."""
        return self.indices[self.of[row]] == _CALLED

    def turn(self, row: int) -> int:
        """Return how often the block of a row was laid up to there: in which turn of a repeat the row is, from 1."""
        return self.of[: row + 1].count(self.of[row])

    def depths(self) -> array[int]:
        """Return how deep each block lies: 0 for those of the routine itself."""
        found = array("i")
        ends = [*self.since[1:], len(self.blocks)] if self.since else []
        for parent, since, end in zip(self.parents, self.since, ends, strict=True):
            found.extend([sum(isinstance(part, int) for part in parent)] * (end - since))
        return found

    def shown(self) -> list[int]:
        """Return the entries of the routine's own blocks, in the order in which they stand."""
        return [entry for entry, index in enumerate(self.indices) if index != _CALLED]
