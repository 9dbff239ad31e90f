"""A drum that winds a cord as the drive of a slide: one revolution is its circumference."""

from __future__ import annotations

from decimal import Decimal
from fractions import Fraction
from typing import Annotated, Literal

from kivant.core.fields import About, DecimalText, Extra
from kivant.core.travel.circle import PI
from kivant.core.travel.stages.kind import Reverses, Stage, StageKind


class Drum(Stage, frozen=True, kw_only=True):
    """A drum: diameter in mm, to the middle of the cord."""

    stage: Literal["drum"] = "drum"
    diameter: Annotated[DecimalText, About("To the middle of the cord", "mm")]
    reverses: Reverses = None
    x: Extra = None


DRUM = StageKind(
    type=Drum,
    name="drum",
    ratio=lambda stage: 1 / (PI * Fraction(stage.diameter)),
    linear=True,
    new=Drum(diameter=Decimal(30)),
    fields=(("diameter", "drum diameter", "length"),),
    words=lambda stage: f"a cord on a drum of {stage.diameter} mm",
)
