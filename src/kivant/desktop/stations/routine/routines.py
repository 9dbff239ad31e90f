"""The routines of the machine: added, copied, renamed and deleted."""

from __future__ import annotations

from kivant.core.machine import Routine
from kivant.core.program import editing
from kivant.desktop.stations.routine.program import Program


class Routines:
    """What is done to whole routines; the chosen one is that of the program."""

    def __init__(self, program: Program) -> None:
        self.program, self.session = program, program.session

    def _add(self, routine: Routine, name: str) -> None:
        if self.session.try_edit(editing.add_routine(routine), name):
            self.session.choice.choose_routine(self.session.document.machine.routines[-1].name)

    def add(self) -> None:
        """Add an empty routine, and choose it."""
        self._add(Routine(name="New routine"), "new routine")

    def duplicate(self) -> None:
        """Add a copy of the routine, and choose it."""
        if self.program.routine is not None:
            self._add(self.program.routine, f"duplicate “{self.program.routine.name}”")

    def delete(self) -> None:
        """Take the routine out of the machine."""
        if self.program.routine is not None and self.program.index is not None:
            self.session.try_edit(editing.delete_routine(self.program.index), f"delete “{self.program.routine.name}”")

    def rename(self, name: str) -> None:
        """Give the routine another name.

        Raises
        ------
        KivantError
            If it cannot be called so.
        """
        if self.program.index is not None:
            self.session.edit(editing.rename_routine(self.program.index, name), "name of the routine")
