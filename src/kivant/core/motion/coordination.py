"""Coordination: straight moves of any number of axes that start and end together.

The axes share one ramp along the path from 0 to 1; each covers its own distance times that. A limit of an
axis is then a limit of the path, its limit divided by its distance, and the tightest one holds. As the
path's limits are independent of position, the fastest ramp within them is the fastest coordinated move.
"""

from __future__ import annotations

from collections.abc import Sequence

from kivant.core.motion.ramp import Ramp
from kivant.core.motion.rates import Rates
from kivant.core.motion.shapes import SHAPES


def coordinate(
    distances: Sequence[float], rates: Sequence[Rates], speed_factor: float = 1.0, shape: str = "trapezoid"
) -> Ramp | None:
    """Return the fastest ramp from 0 to 1 along the straight path, or None if nothing moves.

    Parameters
    ----------
    distances : sequence of float
        How far each axis goes, either sign; an axis that rests (0) limits nothing.
    rates : sequence of Rates, same length
        Limits in the units of `distances`.
    speed_factor : float, in (0, 1]
        Scales the wished speed and nothing else; the pulse rate caps the speed after that.
    shape : str
        Name of the ramp's shape in `SHAPES`.
    """
    moving = [(abs(d), r) for d, r in zip(distances, rates, strict=True) if d]
    if not moving:
        return None
    return SHAPES[shape](
        1.0,
        speed=min(r.top_speed(speed_factor) / d for d, r in moving),
        acceleration=min(r.acceleration / d for d, r in moving),
        deceleration=min(r.deceleration / d for d, r in moving),
        start_speed=min(r.start_speed / d for d, r in moving),
    )
