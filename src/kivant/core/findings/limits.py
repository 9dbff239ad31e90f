"""Findings about what a routine commands: positions beyond limits, and spins that cannot be done."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from kivant.core.findings.kind import Case, FindingKind
from kivant.core.machine.parts import Machine, Routine
from kivant.core.motion.reach import beyond_limits, beyond_words, row_faults
from kivant.core.motion.routine import commands
from kivant.core.path import Path


def _outside(machine: Machine, routine: Routine, place: Path, checkpoint: Callable[[], None]) -> Iterator[Case]:
    for found in beyond_limits(machine, routine, commands(machine, routine, checkpoint)):
        message, remedy = beyond_words(machine, found)
        yield Case(place / found.path, {"message": message, "remedy": remedy})


def _impossible(machine: Machine, routine: Routine, place: Path, checkpoint: Callable[[], None]) -> Iterator[Case]:
    commanded = commands(machine, routine, checkpoint)
    for path, message, remedy in row_faults(commanded, commanded.spins.faults):
        yield Case(place / path, {"message": message, "remedy": remedy})


def _unreachable(machine: Machine, routine: Routine, place: Path, checkpoint: Callable[[], None]) -> Iterator[Case]:
    commanded = commands(machine, routine, checkpoint)
    for path, message, remedy in row_faults(commanded, commanded.unreachable):
        yield Case(place / path, {"message": message, "remedy": remedy})


OUTSIDE_LIMITS = FindingKind(
    code="outside-limits",
    severity="error",
    subject="routine",
    title="A routine commands a position beyond an axis's limits.",
    check=_outside,
    message="{message}",
    remedy="{remedy}",
)

SPIN_IMPOSSIBLE = FindingKind(
    code="spin-impossible",
    severity="error",
    subject="routine",
    title="A spin is beyond a limit of its axes or of the tool, or too short for its ramps.",
    check=_impossible,
    message="{message}",
    remedy="{remedy}",
)

PLACE_UNREACHABLE = FindingKind(
    code="place-unreachable",
    severity="error",
    subject="routine",
    title="The tool cannot be where a block puts it.",
    check=_unreachable,
    message="{message}",
    remedy="{remedy}",
)
