"""Measuring an axis: where it is sent, what was read there, and what follows."""

from __future__ import annotations

from decimal import Decimal
from fractions import Fraction

from msgspec import Struct, field

from kivant.core.errors import Fault, KivantError, ValueTextError
from kivant.core.machine import Axis
from kivant.core.quantity import parse_position
from kivant.core.travel.calibrating import Fit, Observation, fit
from kivant.core.travel.conversion import convert, steps_per_unit
from kivant.core.travel.play import Play, play_of
from kivant.files.observations import parse_observations

PLACES = 6
"""Places that are proposed; each is approached from both sides."""
_GOLDEN = 0.6180339887498949  # of a part: no shaft stands at the same angle at all places
_RUN_UP = {"deg": Fraction(20), "mm": Fraction(3)}
"""How far an axis goes back before it comes to a place from one side: beyond any play."""


class Target(Struct, frozen=True):
    """A place to be read at, in axis units, and the side from which it is approached: 1 from below, -1 from above."""

    position: Fraction
    approach: int


def reachable(axis: Axis, position: Fraction) -> Fraction:
    """Return the position of the step nearest to one: what is read there has no share of rounding in it."""
    return convert(axis, position).actual


def proposed(axis: Axis) -> list[Target]:
    """Return places spread over the travel, from both sides, at mixed angles of all shafts."""
    low = Fraction(axis.limits.min) if axis.limits.min is not None else Fraction(0)
    high = Fraction(axis.limits.max) if axis.limits.max is not None else low + (720 if axis.unit == "deg" else 100)
    room = min(_RUN_UP[axis.unit], (high - low) / 8)
    low, high = low + room, high - room
    found = []
    for k in range(PLACES):
        share = (k + (k * _GOLDEN) % 1.0 * 0.6) / (PLACES - 0.4)
        place = reachable(axis, Fraction(round(float(low + (high - low) * Fraction(share)) * 100), 100))
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


class Measuring(Struct):
    """What was read of one axis, and where it is to be read next.

    ``before`` is what was read before the latest calibration was applied, to compare with; ``taken_with`` the steps per
    unit and the play in force as the first was read: all must be of one kind.
    """

    targets: list[Target] = field(default_factory=list)
    read: list[Observation] = field(default_factory=list)
    before: list[Observation] = field(default_factory=list)
    taken_with: tuple[Fraction, Play] | None = None
    _proposed_for: tuple[str, Decimal | None, Decimal | None] | None = None

    def begin_anew(self, *, applied: bool = False) -> None:
        """Forget all readings, but keep them to compare with where a calibration was made of them."""
        self.before = self.read if applied else []
        self.read, self.targets = [], []

    def next(self, axis: Axis) -> Target:
        """Return the first place that was not read yet; the first of all once each was.

        Places are proposed anew where the axis goes elsewhere now.
        """
        range_now = axis.unit, axis.limits.min, axis.limits.max
        if not self.targets or range_now != self._proposed_for:
            self.targets, self._proposed_for = proposed(axis), range_now
        done = {(o.position, o.approach) for o in self.read}
        return next((t for t in self.targets if (float(t.position), t.approach) not in done), self.targets[0])

    def aim(self, axis: Axis, text: str, approach: int) -> None:
        """Read at the step nearest to a place that was typed next.

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
        target = Target(reachable(axis, position), approach)
        self.targets.insert(0, target)
        self.read = [o for o in self.read if (o.position, o.approach) != (float(target.position), approach)]

    def _refuse_mixture(self, axis: Axis) -> None:
        now = steps_per_unit(axis), play_of(axis)
        if not self.read:
            self.taken_with = now
        elif now != self.taken_with:
            message = "The readings were taken with another chain or calibration."
            raise ValueTextError(Fault(axis.name, message, "Start over, or undo what was changed since."))

    def take(self, axis: Axis, text: str) -> None:
        """Take what was read at the next place, in any unit of the axis.

        Raises
        ------
        ValueTextError
            If the text is no position, or the axis was changed since the readings before.
        """
        self._refuse_mixture(axis)
        observed, target = float(parse_position(axis, text)), self.next(axis)
        self.read = [o for o in self.read if (o.position, o.approach) != (float(target.position), target.approach)]
        self.read.append(Observation(float(target.position), target.approach, observed))

    def paste(self, axis: Axis, text: str) -> int:
        """Add readings from CSV, with or without its header; return how many.

        Raises
        ------
        KivantError
            Naming each line that is no reading; or if the axis was changed since the readings before.
        """
        self._refuse_mixture(axis)
        whole = text if text.lstrip().lower().startswith("position") else f"position,approach,observed\n{text}"
        found = parse_observations(axis, whole.replace("\t", ","))
        self.read += found
        return len(found)

    def fit(self, axis: Axis) -> Fit | str:
        """Return what explains the readings, or why that cannot be told."""
        try:
            self._refuse_mixture(axis)
            return fit(axis, self.read)
        except KivantError as error:
            return f"{error.faults[0].message} {error.faults[0].remedy}"
