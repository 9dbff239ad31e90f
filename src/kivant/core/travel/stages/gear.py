"""A pair of toothed wheels: exact by their tooth counts, and turning against each other."""

from __future__ import annotations

from fractions import Fraction
from typing import Literal

from kivant.core.fields import Count, Extra
from kivant.core.travel.stages.kind import Reverses, Stage, StageKind


class Gear(Stage, frozen=True, kw_only=True):
    """A pair of toothed wheels, by their tooth counts."""

    stage: Literal["gear"] = "gear"
    driving: Count
    driven: Count
    reverses: Reverses = None
    x: Extra = None


GEAR = StageKind(
    type=Gear,
    name="gear",
    ratio=lambda stage: Fraction(stage.driven, stage.driving),
    new=Gear(driving=20, driven=40, reverses=True),  # wheels that mesh turn against each other
    fields=(("driving", "driving teeth", "teeth"), ("driven", "driven teeth", "teeth")),
    words=lambda stage: f"{stage.driving} teeth drive {stage.driven}",
)
