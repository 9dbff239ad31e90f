"""What was found: a fact that needs attention, and how severe it is."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Literal

from msgspec import Struct

from kivant.core.path import Path

Severity = Literal["error", "warning", "note"]
SEVERITIES: tuple[Severity, ...] = ("error", "warning", "note")


class Finding(Struct, frozen=True):
    """One checked fact; ``place`` is the key path that needs attention, ``mends`` whether a machine can mend it."""

    code: str
    severity: Severity
    place: Path
    message: str
    remedy: str
    mends: bool = True


def by_severity(findings: Iterable[Finding]) -> tuple[Finding, ...]:
    """Return the findings with errors first, then warnings, then notes, otherwise in their order."""
    return tuple(sorted(findings, key=lambda finding: SEVERITIES.index(finding.severity)))


def errors_in(findings: Iterable[Finding]) -> tuple[Finding, ...]:
    """Return those findings that forbid a run."""
    return tuple(finding for finding in findings if finding.severity == "error")
