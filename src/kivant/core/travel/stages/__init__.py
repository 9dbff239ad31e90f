"""The kinds of stages: one module for each, and the table of them all."""

from __future__ import annotations

from fractions import Fraction

from kivant.core.travel.stages.belt import BELT, Belt
from kivant.core.travel.stages.drum import DRUM, Drum
from kivant.core.travel.stages.gear import GEAR, Gear
from kivant.core.travel.stages.kind import Stage, StageKind
from kivant.core.travel.stages.pulleys import PULLEYS, Pulleys
from kivant.core.travel.stages.rack import RACK, Rack
from kivant.core.travel.stages.ratio import RATIO, Ratio
from kivant.core.travel.stages.screw import SCREW, Screw
from kivant.core.travel.stages.worm import WORM, Worm

__all__ = [
    "STAGES", "Belt", "Drum", "Gear", "Pulleys", "Rack", "Ratio", "Screw", "Stage", "StageKind", "Worm", "stage_kind",
    "stage_ratio",
]  # fmt: skip

STAGES: dict[str, StageKind] = {
    "gear": GEAR,
    "ratio": RATIO,
    "belt": BELT,
    "screw": SCREW,
    "worm": WORM,
    "pulleys": PULLEYS,
    "rack": RACK,
    "drum": DRUM,
}
"""Every kind by the value of the key ``stage``, in the order in which they are offered."""


def stage_kind(stage: Stage) -> StageKind:
    """Return the record of a stage's kind."""
    return STAGES[stage.stage]


def stage_ratio(stage: Stage) -> Fraction:
    """Return by how much a stage multiplies steps per output: per revolution, or per mm where it is linear."""
    return stage_kind(stage).ratio(stage)
