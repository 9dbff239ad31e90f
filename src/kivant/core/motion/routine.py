"""Routines: which exact positions a program of blocks commands, one block after the other. No time."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction

from kivant.core.machine.parts import Machine, Routine, start_of
from kivant.core.motion.blocks import Block, Commanded, block_kind
from kivant.core.path import Path


def start_positions(machine: Machine, routine: Routine) -> tuple[Fraction, ...]:
    """Return where every axis begins: 0 unless the routine says otherwise; axis units."""
    start = start_of(routine)
    return tuple(Fraction(start.get(axis.name, 0)) for axis in machine.axes)


def walk(machine: Machine, routine: Routine) -> Iterator[Commanded]:
    """Yield the positions of every block; a relative target counts from the last commanded exact position."""
    index_of = {axis.name: i for i, axis in enumerate(machine.axes)}
    position = start_positions(machine, routine)
    for index, block in enumerate(routine.blocks):
        command = block_kind(block).command
        after = position
        if command is not None:
            targets = list(position)
            command(block, targets, index_of)
            after = tuple(targets)
        yield Commanded(Path(("blocks", index)), block, position, after)
        position = after


def find_block(routine: Routine, path: Path) -> Block:
    """Return the block at a path of the routine.

    Raises
    ------
    LookupError, AttributeError
        If there is none.
    """
    found: Block = path.look_up(routine)
    return found


def block_number(path: Path) -> str:
    """Return the place of a block as a person counts it: ``3``, or ``3.1`` for the first inside the third."""
    return ".".join(str(part + 1) for part in path if isinstance(part, int))
