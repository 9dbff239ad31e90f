"""A routine that is checked: what it commands, what holds it back and its plan, each worked out once for all checks."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from msgspec import Struct

from kivant.core.errors import KivantError
from kivant.core.kept import kept
from kivant.core.machine.parts import Machine, Routine
from kivant.core.motion.commanded import Commands
from kivant.core.motion.routine import commands
from kivant.core.path import Path
from kivant.core.program.held_back import held_back
from kivant.core.program.holder import HeldBack

if TYPE_CHECKING:
    from kivant.core.motion.plan import Plan


class CheckedRoutine(Struct, frozen=True, eq=False, dict=True):
    """One routine of a machine, the place where it stands, and what is called now and then and may raise to end all."""

    machine: Machine
    routine: Routine
    place: Path
    checkpoint: Callable[[], None]

    @kept
    def commanded(self) -> Commands:
        """What it commands."""
        return commands(self.machine, self.routine, self.checkpoint)

    @kept
    def held(self) -> list[HeldBack]:
        """What holds each of its blocks back."""
        return held_back(self.machine, self.commanded, self.checkpoint)

    @kept
    def plan(self) -> Plan | None:
        """Its plan; None where there is none, and a finding says elsewhere why."""
        from kivant.core.plan import plan  # NumPy, only where it is asked for

        try:
            return plan(self.machine, self.routine, trusted=True, checkpoint=self.checkpoint)
        except KivantError:
            return None
