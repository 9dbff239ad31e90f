"""A machine: its parts as immutable data, what holds for them, and how they are changed."""

from __future__ import annotations

from kivant.core.drive.drivers import (
    CoilDriver,
    CoilLines,
    Driver,
    OwnSequence,
    PulseDriver,
    PulsePairDriver,
    PulsePairLines,
    StepDirectionDriver,
    StepDirectionLines,
)
from kivant.core.drive.phases import SequenceName
from kivant.core.fields import Level, Part
from kivant.core.machine.parts import Axis, Board, Limits, Load, Machine, Motor, Pose, Routine, Unit
from kivant.core.motion.blocks import Block, Call, Each, Move, Note, Pause, Repeat, Spin
from kivant.core.travel.stages import Belt, Gear, Ratio, Screw, Stage

__all__ = [
    "Axis", "Belt", "Block", "Board", "Call", "CoilDriver", "CoilLines", "Driver", "Each", "Gear", "Level", "Limits",
    "Load", "Machine", "Motor", "Move", "Note", "OwnSequence", "Part", "Pause", "Pose", "PulseDriver",
    "PulsePairDriver", "PulsePairLines", "Ratio", "Repeat", "Routine", "Screw", "SequenceName", "Spin", "Stage",
    "StepDirectionDriver", "StepDirectionLines", "Unit",
]  # fmt: skip
