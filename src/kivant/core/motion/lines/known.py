"""Known straight lines: what was worked out is kept, as long as nothing changes that lines depend on.

A line takes a hundredth of a second, or a tenth with a jerk, and a routine is planned again with each edit of a block.
"""

from __future__ import annotations

from functools import lru_cache
from operator import is_

from msgspec.structs import replace

from kivant.core.machine.parts import Machine
from kivant.core.machine.tool import tool_of
from kivant.core.motion.lines.courses import Lines

_MACHINES = 4  # whose lines are known


class Basis:
    """The parts of a machine that its lines depend on: equal only where they are the same, as a part cannot change."""

    def __init__(self, machine: Machine) -> None:
        self.machine = replace(machine, poses=None, routines=())
        self._own = machine.axes, machine.geometry, machine.board, machine.supplies

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Basis) and all(map(is_, self._own, other._own))

    def __hash__(self) -> int:
        return hash(tuple(map(id, self._own)))


@lru_cache(_MACHINES)
def lines_of(basis: Basis) -> Lines:
    """Return the straight lines of a machine with a tool."""
    tool = tool_of(basis.machine)
    assert tool is not None
    return Lines(basis.machine, tool)
