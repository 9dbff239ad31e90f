"""Standing: where the axes stand on the board, as far as it is known."""

from __future__ import annotations

import math
from collections.abc import Sequence
from decimal import Decimal
from fractions import Fraction

from kivant.app.running.status import Status
from kivant.core.machine import Axis, Machine
from kivant.core.machine.parts import find_named
from kivant.core.motion.plan import Plan
from kivant.core.motion.whole_turns import TURN
from kivant.core.quantity import as_decimal
from kivant.core.travel.conversion import nearest_step, steps_per_rev, steps_per_unit
from kivant.core.travel.play import Sense, play_of
from kivant.core.travel.sense import rotor_sense

_SAME = Decimal("1e-9")


class Standing:
    """Positions by axis name, in axis units, and where each is in its play (without any, in which direction it went).

    Axes that have not moved yet have none of both.
    """

    def __init__(self) -> None:
        self.places: dict[str, Decimal] = {}
        self.senses: dict[str, Sense] = {}
        self._axes: dict[str, Axis] = {}  # as they were when that was found

    def copy(self) -> Standing:
        """Return the same, to be gone on with by itself."""
        other = Standing()
        other.places, other.senses, other._axes = dict(self.places), dict(self.senses), dict(self._axes)
        return other

    def keep_up(self, machine: Machine) -> None:
        """Follow a change of axes: their rotors stay where they are, whatever chain or calibration makes of that."""
        for axis in machine.axes:
            known = self._axes.get(axis.name)
            if known is not None and known != axis:
                turned = rotor_sense(known) * rotor_sense(axis)
                steps = self.motor_steps(known) / steps_per_rev(known) * steps_per_rev(axis) * turned
                if axis.name in self.senses:
                    self.senses[axis.name] *= turned
                self.places[axis.name] = as_decimal((steps - self.offset(axis)) / steps_per_unit(axis))
                self._axes[axis.name] = axis

    def motor_steps(self, axis: Axis) -> Fraction:
        """Return where an axis's motor stands, in steps: where the tool does, and the play that is taken up."""
        return Fraction(self.places.get(axis.name, 0)) * steps_per_unit(axis) + self.offset(axis)

    def offset(self, axis: Axis) -> int:
        """Return by how many steps the motor stands beside the tool."""
        return play_of(axis).offset(self._sense(axis))

    def _sense(self, axis: Axis) -> Sense:
        return self.senses.get(axis.name, play_of(axis).first)

    def of(self, machine: Machine) -> dict[str, Decimal]:
        """Return where the axes of a machine stand."""
        names = {axis.name for axis in machine.axes}
        return {name: place for name, place in self.places.items() if name in names}

    def arrive(self, machine: Machine, status: Status, made: Plan) -> None:
        """Remember where a plan has ended: exactly at its end, if it went there; else as counted."""
        end_s = math.inf if status.phase == "done" else status.elapsed_s
        for axis, counted, planned in zip(machine.axes, status.counts, made.axes, strict=False):
            if planned.has_play:
                self.senses[axis.name] = planned.sense_at(end_s)
            elif taken := planned.train.taken(end_s):
                self.senses[axis.name] = planned.train.sign_of(taken - 1)
            exact = planned.train.ends.end if status.phase == "done" else Fraction(counted)
            self._stand(axis, exact)

    def follow(self, machine: Machine, counts: Sequence[int]) -> None:
        """Remember where motors are that were moved without a plan: a tool stands while its play is being taken up."""
        for axis, counted in zip(machine.axes, counts, strict=False):
            gone, beside = counted - nearest_step(self.motor_steps(axis)), self.offset(axis)
            if gone:
                self.senses[axis.name] = play_of(axis).after(self._sense(axis), gone)
            if axis.name not in self.places or self.offset(axis) - beside != gone:
                self._stand(axis, Fraction(counted))

    def _stand(self, axis: Axis, motor_steps: Fraction) -> None:
        self.places[axis.name] = as_decimal((motor_steps - self.offset(axis)) / steps_per_unit(axis))
        self._axes[axis.name] = axis

    def away(self, made: Plan) -> dict[str, Decimal]:
        """Return where a plan begins with axes that stand elsewhere, or came from the other side, by their names."""
        starts = made.routine.start or {}
        begins = ((axis, starts.get(axis.name, Decimal(0))) for axis in made.machine.axes)
        return {axis.name: at for axis, at in begins if self._elsewhere(axis, at) or self._from_other_side(axis)}

    def _elsewhere(self, axis: Axis, begin: Decimal) -> bool:
        if not self.places:  # nothing has moved yet
            return False
        way = abs(self.places.get(axis.name, Decimal(0)) - begin)
        if axis.limits.wrap is not None:  # a whole turn is none
            way = min(way % TURN, TURN - way % TURN)
        return way > _SAME

    def _from_other_side(self, axis: Axis) -> bool:
        play = play_of(axis)
        return bool(self.places and play.steps) and self.senses.get(axis.name, play.first) != play.first

    def mismatch(self, made: Plan) -> str:
        """Return a sentence if a plan begins where the axes do not stand, else an empty text."""
        for name, begin in self.away(made).items():
            axis = find_named(made.machine.axes, name)
            if not self._elsewhere(axis, begin):
                said = f"its play of {play_of(axis).steps} steps is not taken up yet"
                return f"{name} came from the other side: {said}. Go to its start."
            here = float(self.places.get(name, Decimal(0)))
            begins = f"but this routine begins at {float(begin):.6g} {axis.unit}"
            return f"{name} stands at {here:.6g} {axis.unit}, {begins}. Go to its start, or change where it begins."
        return ""
