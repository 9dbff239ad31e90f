"""What a gearbox was sold as beside what it is: how far an axis drifts that is reckoned by the number sold."""

from __future__ import annotations

from fractions import Fraction

from msgspec import Struct

from kivant.core.machine.parts import Axis
from kivant.core.travel.conversion import units_per_turn
from kivant.core.travel.shafts import ratio_so_far


class Drift(Struct, frozen=True):
    """Turns of the rotor for one of the last shaft, as `sold` and as they `are`, and what the difference makes.

    ``per_turn`` is by how much a turn that is reckoned by the ratio sold goes too far, in axis units; negative: short.
    """

    sold: Fraction
    true: Fraction
    per_turn: Fraction


def true_ratio(axis: Axis) -> Fraction:
    """Return the turns of the rotor for one of the last shaft: by the stages, and the measured scale."""
    known = axis.calibration
    return ratio_so_far(axis, len(axis.travel)) / (Fraction(known.scale) if known is not None else 1)


def sold_drift(axis: Axis) -> Drift | None:
    """Return how far the ratio that was sold leads astray; None where none is named."""
    if axis.sold is None:
        return None
    sold, true = Fraction(axis.sold), true_ratio(axis)
    return Drift(sold, true, (sold / true - 1) * units_per_turn(axis))
