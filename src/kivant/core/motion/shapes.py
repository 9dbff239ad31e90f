"""The shapes of ramps: a function for each, and the table of them all.

A shape takes distances with the limits of the movements and returns their `Ramps`. Its pieces may be polynomials of up
to the third degree; what solves for steps knows nothing of shapes.
"""

from __future__ import annotations

from typing import Protocol

from kivant.core.motion.ramp import Ramps, trapezoid
from kivant.core.motion.segment import Reals


class Shape(Protocol):
    """Makes the fastest ramps of one shape; parameters as for `trapezoid`."""

    def __call__(
        self,
        distance: Reals,
        *,
        speed: Reals | float,
        acceleration: Reals | float,
        deceleration: Reals | float,
        start_speed: Reals | float = 0.0,
    ) -> Ramps:
        """Return the ramps."""


SHAPES: dict[str, Shape] = {"trapezoid": trapezoid}
"""Every shape by its name."""
