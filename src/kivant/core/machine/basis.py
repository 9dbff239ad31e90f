"""The basis of motion: the parts of a machine by which results that are kept are found again."""

from __future__ import annotations

from operator import is_

from msgspec.structs import replace

from kivant.core.machine.parts import Machine


class Basis:
    """The parts of a machine on which motion depends: equal only where they are the same, as a part cannot change.

    ``machine`` is made of them: it has no poses and no routines.
    """

    def __init__(self, machine: Machine) -> None:
        self.machine = replace(machine, poses=None, routines=())
        self._own = machine.axes, machine.geometry, machine.board, machine.supplies

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Basis) and all(map(is_, self._own, other._own))

    def __hash__(self) -> int:
        return hash(tuple(map(id, self._own)))
