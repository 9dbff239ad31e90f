"""Findings about positions: targets beyond the limits of their axes."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from kivant.core.findings.kind import Case, FindingKind
from kivant.core.machine.parts import Machine, Routine
from kivant.core.motion.reach import beyond_limits, beyond_words
from kivant.core.motion.routine import commands
from kivant.core.path import Path


def _outside(machine: Machine, routine: Routine, place: Path, checkpoint: Callable[[], None]) -> Iterator[Case]:
    for found in beyond_limits(machine, routine, commands(machine, routine, checkpoint)):
        message, remedy = beyond_words(machine, found)
        yield Case(place / found.path, {"message": message, "remedy": remedy})


OUTSIDE_LIMITS = FindingKind(
    code="outside-limits",
    severity="error",
    subject="routine",
    title="A routine commands a position beyond an axis's limits.",
    check=_outside,
    message="{message}",
    remedy="{remedy}",
)
