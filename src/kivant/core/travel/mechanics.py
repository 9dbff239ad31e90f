"""Mechanics: what a real axis does with its steps, and what a pointer at its tool shows.

It is the other side of calibrating: a shaft that goes scale x commanded, a tool that hangs loosely on it by the play,
errors that come once a turn of a shaft, a reading that scatters, and a motor that loses a step now and then.
"""

from __future__ import annotations

import math
import random
from collections.abc import Mapping, Sequence
from types import MappingProxyType
from typing import Annotated

from kivant.core.bounds import Ge, Le, MaxLen
from kivant.core.fields import REAL, WHOLE, About, Count, NotNegative, Part


class Ripple(Part, frozen=True, kw_only=True):
    """An error that comes once a turn of a shaft."""

    shaft: Annotated[int, Ge(0), Le(32), WHOLE, About("0: the rotor; k: the output of stage k")]
    amplitude: Annotated[NotNegative, About("In axis units")]
    phase_deg: Annotated[float, Ge(-360), Le(360), REAL, About("Where it is greatest", "deg")] = 0.0


class Mechanics(Part, frozen=True, kw_only=True):
    """In what an axis differs from its chain of stages; lengths are in axis units."""

    scale: Annotated[float, Ge(0.5), Le(2), REAL, About("Movement of the tool for a commanded one")] = 1.0
    backlash: Annotated[NotNegative, About("Lost motion at a reversal")] = 0.0
    periodic: Annotated[tuple[Ripple, ...], MaxLen(32), About("Errors once a turn of a shaft")] = ()
    noise: Annotated[NotNegative, About("Standard deviation of a reading")] = 0.0
    lost_every: Annotated[Count | None, About("One step in so many is lost; left out: none")] = None


WORN: Mapping[str, Mechanics] = MappingProxyType(
    {
        "deg": Mechanics(
            scale=0.9853, backlash=0.6, periodic=(Ripple(shaft=1, amplitude=0.12, phase_deg=30.0),), noise=0.02
        ),
        "mm": Mechanics(
            scale=1.0042, backlash=0.08, periodic=(Ripple(shaft=0, amplitude=0.015, phase_deg=75.0),), noise=0.004
        ),
    }
)
"""What axes of each unit do that were sold with round figures, and have been in use for a while."""


class Pointer:
    """A pointer at the tool of one axis. It stays where it is when counts are set or its motor is driven otherwise.

    Parameters
    ----------
    mechanics : Mechanics
    seed : int
        Of the readings' scatter.
    """

    def __init__(self, mechanics: Mechanics, seed: int = 0) -> None:
        self.mechanics = mechanics
        self._steps_per_unit = 1.0
        self._rates: tuple[float, ...] = ()
        self._shaft: float | None = None  # where the chain says that the axis is, in its units
        self._beside = 0.0  # what it is beside the counts, which may be set
        self._tool = 0.0  # in the middle of its play it would stand where the shaft is
        self._walked = 0.0  # steps since one was lost
        self._chance = random.Random(seed)

    def attach(self, steps_per_unit: float, rates: Sequence[float]) -> None:
        """Be driven so: steps for one axis unit by the chain alone, and turns of each shaft for one unit."""
        self._steps_per_unit, self._rates = steps_per_unit, tuple(rates)

    def stand_at(self, count: int) -> None:
        """Stand where it stands, which is from now on called `count`; a new one begins there, coming from below."""
        called = count / self._steps_per_unit
        if self._shaft is None:
            self._shaft = called
            self._tool = self.mechanics.scale * called - self.mechanics.backlash / 2
        self._beside = self._shaft - called

    def follow(self, count: int) -> None:
        """Follow the motor, which has gone to `count` in one direction."""
        every, before = self.mechanics.lost_every, self._shaft or 0.0
        shaft = count / self._steps_per_unit + self._beside
        if every is not None:
            way = (shaft - before) * self._steps_per_unit
            lost, self._walked = divmod(self._walked + abs(way), every)
            slipped = math.copysign(lost, way) / self._steps_per_unit
            self._beside, shaft = self._beside - slipped, shaft - slipped
        self._shaft = shaft
        driven, half = self.mechanics.scale * self._shaft, self.mechanics.backlash / 2
        self._tool = min(max(self._tool, driven - half), driven + half)

    def read(self) -> float:
        """Return what the pointer shows, in axis units."""
        ripples = sum(
            own.amplitude
            * math.cos(math.tau * self._rates[own.shaft] * (self._shaft or 0.0) - math.radians(own.phase_deg))
            for own in self.mechanics.periodic
            if own.shaft < len(self._rates)
        )
        return self._tool + ripples + self._chance.gauss(0.0, self.mechanics.noise)
