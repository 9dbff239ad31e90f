"""A reduction of which only the ratio is known."""

from __future__ import annotations

from fractions import Fraction
from typing import Literal

from kivant.core.fields import Extra, RatioText
from kivant.core.travel.stages.kind import Reverses, Stage, StageKind


class Ratio(Stage, frozen=True, kw_only=True):
    """A reduction known by its ratio only: a decimal ``13.73`` or a fraction ``p/q``."""

    stage: Literal["ratio"] = "ratio"
    ratio: RatioText
    reverses: Reverses = None
    x: Extra = None


RATIO = StageKind(
    type=Ratio,
    name="ratio",
    ratio=lambda stage: Fraction(stage.ratio),
    new=Ratio(ratio="2"),
    fields=(("ratio", "ratio", "ratio"),),
    words=lambda stage: f"1 : {stage.ratio}",
)
