"""Routines: which exact positions a program of blocks commands, one block after the other. No time."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction

from kivant.core.machine import Block, Machine, Move, Routine


@dataclass(frozen=True, slots=True)
class Commanded:
    """Exact positions before and after one block, in axis units, in the order of the machine's axes."""

    index: int
    block: Block
    before: tuple[Fraction, ...]
    after: tuple[Fraction, ...]


def start_positions(machine: Machine, routine: Routine) -> tuple[Fraction, ...]:
    """Return where every axis begins: 0 unless the routine says otherwise; axis units."""
    start = routine.start or {}
    return tuple(Fraction(start.get(axis.name, 0)) for axis in machine.axes)


def walk(machine: Machine, routine: Routine) -> Iterator[Commanded]:
    """Yield the positions of every block; a relative target counts from the last commanded exact position."""
    index_of = {axis.name: i for i, axis in enumerate(machine.axes)}
    position = start_positions(machine, routine)
    for index, block in enumerate(routine.blocks):
        after = position
        if isinstance(block, Move):
            targets = list(position)
            for name, value in (block.to or {}).items():
                targets[index_of[name]] = Fraction(value)
            for name, value in (block.by or {}).items():
                targets[index_of[name]] += Fraction(value)
            after = tuple(targets)
        yield Commanded(index, block, position, after)
        position = after
