"""Findings about what a routine commands: positions beyond limits, and spins that cannot be done."""

from __future__ import annotations

from collections.abc import Iterator

from kivant.core.findings.checked_routine import CheckedRoutine
from kivant.core.findings.kind import Case, FindingKind
from kivant.core.motion.reach import beyond_limits, beyond_words, row_faults


def _outside(checked: CheckedRoutine) -> Iterator[Case]:
    for found in beyond_limits(checked.machine, checked.routine, checked.commanded):
        message, remedy = beyond_words(checked.machine, found)
        yield Case(checked.place / found.path, {"message": message, "remedy": remedy})


def _impossible(checked: CheckedRoutine) -> Iterator[Case]:
    commanded = checked.commanded
    for path, message, remedy in row_faults(commanded, commanded.spins.faults):
        yield Case(checked.place / path, {"message": message, "remedy": remedy})


def _unreachable(checked: CheckedRoutine) -> Iterator[Case]:
    for path, message, remedy in row_faults(checked.commanded, checked.commanded.unreachable):
        yield Case(checked.place / path, {"message": message, "remedy": remedy})


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
