"""A screw as the drive of a slide: one revolution is its lead."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction
from typing import Annotated, Literal

from kivant.core.fields import About, DecimalText, Extra
from kivant.core.travel.stages.kind import Stage, StageKind


@dataclass(frozen=True, slots=True, kw_only=True)
class Screw(Stage):
    """A screw: lead in mm per revolution."""

    stage: Literal["screw"] = "screw"
    lead: Annotated[DecimalText, About("Travel of one revolution", "mm")]
    x: Extra = None


SCREW = StageKind(
    type=Screw,
    name="screw",
    ratio=lambda stage: 1 / Fraction(stage.lead),
    linear=True,
    new=Screw(lead=Decimal(8)),
    fields=(("lead", "screw lead", "length"),),
    words=lambda stage: f"a turn moves the nut {stage.lead} mm",
)
