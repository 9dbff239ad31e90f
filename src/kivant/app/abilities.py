"""What the motors of the open machine can do, worked out once for each state of it."""

from __future__ import annotations

from kivant.app.choice import Choice
from kivant.core.motor.usable import Ability, ability


class Abilities:
    """The ability of each axis of the machine as it is now."""

    def __init__(self, choice: Choice) -> None:
        self._choice = choice
        self._machine: object = None
        self._known: dict[int, Ability] = {}

    def of(self, index: int) -> Ability:
        """Return what the motor of an axis can do."""
        machine = self._choice.machine
        if self._machine is not machine:
            self._machine, self._known = machine, {}
        if index not in self._known:
            self._known[index] = ability(machine, machine.axes[index])
        return self._known[index]
