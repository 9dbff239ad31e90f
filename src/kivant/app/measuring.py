"""Measuring an axis: where it is sent, what was read there, and what follows."""

from __future__ import annotations

from dataclasses import dataclass, field
from fractions import Fraction

from kivant.core.errors import Fault, KivantError, ValueTextError
from kivant.core.machine import Axis
from kivant.core.quantity import parse_position
from kivant.core.travel.calibrating import Fit, Observation, fit
from kivant.files.observations import parse_observations

PLACES = 6
"""Places that are proposed; each is approached from both sides."""
_GOLDEN = 0.6180339887498949  # of a part: no shaft stands at the same angle at all places
_RUN_UP = {"deg": Fraction(20), "mm": Fraction(3)}
"""How far an axis goes back before it comes to a place from one side: beyond any play."""


@dataclass(frozen=True, slots=True)
class Target:
    """A place to be read at, in axis units, and the side from which it is approached: 1 from below, -1 from above."""

    position: Fraction
    approach: int


def proposed(axis: Axis) -> list[Target]:
    """Return places spread over the travel, from both sides, at mixed angles of all shafts; to 0.01 unit."""
    low = Fraction(axis.limits.min) if axis.limits.min is not None else Fraction(0)
    high = Fraction(axis.limits.max) if axis.limits.max is not None else low + (720 if axis.unit == "deg" else 100)
    room = min(_RUN_UP[axis.unit], (high - low) / 8)
    low, high = low + room, high - room
    found = []
    for k in range(PLACES):
        share = (k + (k * _GOLDEN) % 1.0 * 0.6) / (PLACES - 0.4)
        place = Fraction(round(float(low + (high - low) * Fraction(share)) * 100), 100)
        found += [Target(place, 1), Target(place, -1)]
    return found


def way_to(axis: Axis, target: Target) -> list[Fraction]:
    """Return the positions that lead to a target from its side."""
    before = target.position - target.approach * _RUN_UP[axis.unit]
    low, high = axis.limits.min, axis.limits.max
    if low is not None:
        before = max(before, Fraction(low))
    if high is not None:
        before = min(before, Fraction(high))
    return [before, target.position] if before != target.position else [target.position]


@dataclass
class Measuring:
    """What was read of one axis, and where it is to be read next."""

    targets: list[Target] = field(default_factory=list)
    read: list[Observation] = field(default_factory=list)

    def next(self, axis: Axis) -> Target:
        """Return the first place that was not read yet; the first of all once each was."""
        if not self.targets:
            self.targets = proposed(axis)
        done = {(o.position, o.approach) for o in self.read}
        return next((t for t in self.targets if (float(t.position), t.approach) not in done), self.targets[0])

    def aim(self, axis: Axis, text: str, approach: int) -> None:
        """Read at a place that was typed next.

        Raises
        ------
        ValueTextError
            If it is no position, or lies beyond the axis's limits.
        """
        position = parse_position(axis, text)
        low, high = axis.limits.min, axis.limits.max
        if (low is not None and position < low) or (high is not None and position > high):
            message = f"{axis.name} does not go to {float(position):.6g} {axis.unit}."
            raise ValueTextError(Fault(axis.name, message, "Type a position within its limits."))
        self.next(axis)
        self.targets.insert(0, Target(position, approach))
        self.read = [o for o in self.read if (o.position, o.approach) != (float(position), approach)]

    def take(self, axis: Axis, text: str) -> None:
        """Take what was read at the next place, in any unit of the axis.

        Raises
        ------
        ValueTextError
            If the text is no position.
        """
        observed, target = float(parse_position(axis, text)), self.next(axis)
        self.read = [o for o in self.read if (o.position, o.approach) != (float(target.position), target.approach)]
        self.read.append(Observation(float(target.position), target.approach, observed))

    def paste(self, axis: Axis, text: str) -> int:
        """Add readings from CSV, with or without its header; return how many.

        Raises
        ------
        KivantError
            Naming each line that is no reading.
        """
        whole = text if text.lstrip().lower().startswith("position") else f"position,approach,observed\n{text}"
        found = parse_observations(axis, whole.replace("\t", ","))
        self.read += found
        return len(found)

    def fit(self, axis: Axis) -> Fit | str:
        """Return what explains the readings, or why that cannot be told."""
        try:
            return fit(axis, self.read)
        except KivantError as error:
            return f"{error.faults[0].message} {error.faults[0].remedy}"
