"""A toothed belt between two pulleys as a reduction: exact by their tooth counts, and turning the same way."""

from __future__ import annotations

from fractions import Fraction
from typing import Literal

from kivant.core.fields import Count, Extra
from kivant.core.travel.stages.kind import Reverses, Stage, StageKind


class Pulleys(Stage, frozen=True, kw_only=True):
    """Two pulleys with a toothed belt, by their tooth counts."""

    stage: Literal["pulleys"] = "pulleys"
    driving: Count
    driven: Count
    reverses: Reverses = None
    x: Extra = None


PULLEYS = StageKind(
    type=Pulleys,
    name="pulleys",
    ratio=lambda stage: Fraction(stage.driven, stage.driving),
    new=Pulleys(driving=20, driven=60),
    fields=(("driving", "driving teeth", "teeth"), ("driven", "driven teeth", "teeth")),
    words=lambda stage: f"a belt from {stage.driving} teeth to {stage.driven}",
)
