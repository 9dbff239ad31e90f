"""How many rows the blocks of a routine make, all turns of repeats and all calls included, before they are laid."""

from __future__ import annotations

from collections.abc import Sequence

from kivant.core.machine.parts import Machine
from kivant.core.motion.blocks import Block, block_kind

MOST_ROWS = 1_000_000
"""Rows that a routine may make: a plan keeps some hundred bytes of each for every axis."""


class RowCounter:
    """Counts rows; every routine is counted once. ``blocks`` are those of each."""

    def __init__(self, machine: Machine) -> None:
        self.blocks = {routine.name: routine.blocks for routine in machine.routines}
        self._known: dict[str, int] = {}

    def inside(self, blocks: Sequence[Block]) -> int:
        """Return how many rows some blocks make."""
        return sum(map(self.of, blocks))

    def of(self, block: Block) -> int:
        """Return how many rows a block makes."""
        return 0 if block.off else block_kind(block).rows(block, self)

    def routine(self, name: str) -> int:
        """Return how many rows a routine makes; none if there is no such routine."""
        if name not in self._known:
            self._known[name] = 0  # as many as a routine makes that calls itself: it is refused anyway
            self._known[name] = self.inside(self.blocks.get(name, ()))
        return self._known[name]
