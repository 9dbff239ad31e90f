"""A worm and its wheel: one turn of the worm moves the wheel on by as many teeth as the worm has starts."""

from __future__ import annotations

from fractions import Fraction
from typing import Annotated, Literal

from kivant.core.fields import About, Count, Extra
from kivant.core.travel.stages.kind import Reverses, Stage, StageKind


class Worm(Stage, frozen=True, kw_only=True):
    """A worm and its wheel, by starts and teeth."""

    stage: Literal["worm"] = "worm"
    starts: Annotated[Count, About("Threads of the worm")]
    teeth: Annotated[Count, About("Teeth of the wheel")]
    reverses: Reverses = None
    x: Extra = None


WORM = StageKind(
    type=Worm,
    name="worm",
    ratio=lambda stage: Fraction(stage.teeth, stage.starts),
    new=Worm(starts=1, teeth=40),
    fields=(("starts", "starts", "teeth"), ("teeth", "wheel teeth", "teeth")),
    words=lambda stage: f"a worm of {stage.starts} start{'s' if stage.starts > 1 else ''} drives {stage.teeth} teeth",
)
