"""Standing: where the axes stand on the board, as far as it is known."""

from __future__ import annotations

from decimal import Decimal
from fractions import Fraction

from kivant.app.running.status import Status
from kivant.core.machine import Machine
from kivant.core.motion.plan import Plan
from kivant.core.quantity import as_decimal
from kivant.core.travel.conversion import steps_per_unit


class Standing:
    """Positions by axis name, in axis units; axes that have not moved yet have none."""

    def __init__(self) -> None:
        self.places: dict[str, Decimal] = {}

    def of(self, machine: Machine) -> dict[str, Decimal]:
        """Return where the axes of a machine stand."""
        names = {axis.name for axis in machine.axes}
        return {name: place for name, place in self.places.items() if name in names}

    def arrive(self, machine: Machine, status: Status, made: Plan | None) -> None:
        """Remember where a run has ended: exactly where its plan ends, if it went to its end; else as counted."""
        for index, (axis, counted) in enumerate(zip(machine.axes, status.counts, strict=False)):
            known = made is not None and status.phase == "done"
            exact = made.axes[index].train.end if made is not None and known else Fraction(counted)
            self.places[axis.name] = as_decimal(exact / steps_per_unit(axis))

    def mismatch(self, made: Plan) -> str:
        """Return a sentence if a plan begins where the axes do not stand, else an empty text."""
        if not self.places:
            return ""
        starts = made.routine.start or {}
        for axis in made.machine.axes:
            here, begin = self.places.get(axis.name, Decimal(0)), starts.get(axis.name, Decimal(0))
            if abs(here - begin) > Decimal("1e-9"):
                return (
                    f"{axis.name} stands at {float(here):.6g} {axis.unit}, "
                    f"but this routine begins at {float(begin):.6g} {axis.unit}."
                )
        return ""
