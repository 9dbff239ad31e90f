"""What the motors of the open machine can do, worked out once for what it depends on."""

from __future__ import annotations

from typing import Any

from kivant.app.choice import Choice
from kivant.core.motor.spare import spare_of
from kivant.core.motor.usable import Ability, LimitedBy, ability, top_speed


class Abilities:
    """The ability of each axis of the machine as it is now."""

    def __init__(self, choice: Choice) -> None:
        self._choice = choice
        self._machine: object = None
        self._known: dict[int, Ability] = {}
        self._tops: dict[int, tuple[tuple[Any, ...], tuple[float, LimitedBy]]] = {}

    def of(self, index: int) -> Ability:
        """Return what the motor of an axis can do."""
        machine = self._choice.machine
        if self._machine is not machine:
            self._machine, self._known = machine, {}
        if index not in self._known:
            self._known[index] = ability(machine, machine.axes[index])
        return self._known[index]

    def top_speed(self, index: int) -> tuple[float, LimitedBy]:
        """Return how fast an axis could go, and by what that is limited; a change of its limits is none of this."""
        machine = self._choice.machine
        axis = machine.axes[index]
        parts = (
            axis.motor, axis.driver, axis.travel, axis.load, axis.calibration, axis.margin, machine.board,
            machine.supplies,
        )  # fmt: skip
        known = self._tops.get(index)
        if known is None or any(one is not other for one, other in zip(known[0], parts, strict=True)):
            known = self._tops[index] = parts, top_speed(machine, axis, spare_of(machine, axis))
        return known[1]
