"""A diagnosis as it goes on: what was seen of a motor, which way it went at single rows, and what explains it."""

from __future__ import annotations

from msgspec import Struct, field

from kivant.core.drive.causes import causes
from kivant.core.drive.symptoms import Cause, Told, diagnose
from kivant.core.machine import Axis


class Diagnosis(Struct):
    """What was told of one axis."""

    told: set[Told] = field(default_factory=set)
    moves: dict[int, int] = field(default_factory=dict)  # by the number of the step forward from row 0

    def toggle(self, symptom: Told) -> None:
        """Tell a symptom, or take it back."""
        self.told ^= {symptom}

    def note(self, step: int, direction: int, way: int) -> None:
        """Note which way (1, -1, 0) the rotor went when a step was taken on (1) or back (-1)."""
        self.moves[step] = way * direction

    def forget(self) -> None:
        """Begin anew."""
        self.told.clear()
        self.moves.clear()

    def causes(self, axis: Axis) -> list[Cause]:
        """Return what explains all of it, likeliest first."""
        return diagnose(causes(axis), self.told, self.moves)
