"""The shapes of ramps: a function for each, and the table of them all.

A shape takes a distance with the limits of the movement and returns the `Ramp`. Its pieces may be polynomials of up
to the third degree; what solves for steps knows nothing of shapes.
"""

from __future__ import annotations

from typing import Protocol

from kivant.core.motion.ramp import Ramp, trapezoid


class Shape(Protocol):
    """Makes the fastest ramp of one shape; parameters as for `trapezoid`."""

    def __call__(
        self, distance: float, *, speed: float, acceleration: float, deceleration: float, start_speed: float = 0.0
    ) -> Ramp:
        """Return the ramp."""


SHAPES: dict[str, Shape] = {"trapezoid": trapezoid}
"""Every shape by its name."""
