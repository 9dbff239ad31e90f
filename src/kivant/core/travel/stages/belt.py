"""A toothed belt as the drive of a slide: one revolution of its pulley is pitch times teeth."""

from __future__ import annotations

from decimal import Decimal
from fractions import Fraction
from typing import Annotated, Literal

from kivant.core.fields import About, Count, DecimalText, Extra
from kivant.core.travel.stages.kind import Common, Reverses, Stage, StageKind


class Belt(Stage, frozen=True, kw_only=True):
    """A toothed belt over a pulley: pitch in mm, teeth of the pulley."""

    stage: Literal["belt"] = "belt"
    pitch: Annotated[DecimalText, About("From tooth to tooth", "mm")]
    teeth: Annotated[Count, About("Teeth of the pulley")]
    reverses: Reverses = None
    x: Extra = None


_PITCHES = (
    *map(Common, ("2", "2.5", "3", "5", "8", "10", "14", "20")),
    Common("2.032", "0.08 in"),
    Common("5.08", "1/5 in"),
    Common("9.525", "3/8 in"),
    Common("12.7", "1/2 in"),
)
"""Pitches of toothed belts (ISO 5294, ISO 13050, ISO 17396)."""

BELT = StageKind(
    type=Belt,
    name="belt",
    ratio=lambda stage: 1 / (Fraction(stage.pitch) * stage.teeth),
    linear=True,
    new=Belt(pitch=Decimal(2), teeth=20),
    fields=(("pitch", "belt pitch", "length"), ("teeth", "pulley teeth", "teeth")),
    common={"pitch": _PITCHES},
    words=lambda stage: f"{stage.pitch} mm from tooth to tooth, on a pulley of {stage.teeth} teeth",
)
