"""A pinion on a rack as the drive of a slide: one revolution of the pinion is its circumference at the pitch circle."""

from __future__ import annotations

from decimal import Decimal
from fractions import Fraction
from typing import Annotated, Literal

from kivant.core.fields import About, Count, DecimalText, Extra
from kivant.core.travel.circle import PI
from kivant.core.travel.stages.kind import Common, Reverses, Stage, StageKind


class Rack(Stage, frozen=True, kw_only=True):
    """A pinion that runs along a rack: module in mm, teeth of the pinion."""

    stage: Literal["rack"] = "rack"
    module: Annotated[DecimalText, About("Pitch diameter over teeth", "mm")]
    teeth: Annotated[Count, About("Teeth of the pinion")]
    reverses: Reverses = None
    x: Extra = None


_MODULES = tuple(map(Common, ("0.3", "0.4", "0.5", "0.6", "0.8", "1", "1.25", "1.5", "2", "2.5", "3", "4", "5", "6")))
"""Modules of the first series (ISO 54), and the small ones below it."""

RACK = StageKind(
    type=Rack,
    name="rack",
    ratio=lambda stage: 1 / (PI * Fraction(stage.module) * stage.teeth),
    linear=True,
    new=Rack(module=Decimal(1), teeth=20),
    fields=(("module", "module", "length"), ("teeth", "pinion teeth", "teeth")),
    common={"module": _MODULES},
    words=lambda stage: f"a pinion of {stage.teeth} teeth of module {stage.module}",
)
