"""Known straight lines: what was worked out is kept, as long as nothing changes that lines depend on.

A line takes a hundredth of a second, or a tenth with a jerk, and a routine is planned again with each edit of a block.
"""

from __future__ import annotations

from functools import lru_cache

from kivant.core.machine.basis import Basis
from kivant.core.machine.tool import tool_of
from kivant.core.motion.lines.courses import Lines

_MACHINES = 4  # whose lines are known


@lru_cache(_MACHINES)
def lines_of(basis: Basis) -> Lines:
    """Return the straight lines of a machine with a tool."""
    tool = tool_of(basis.machine)
    assert tool is not None
    return Lines(basis.machine, tool)
