"""What a finding is, and what every kind of finding is: one record with its check, its words and its remedy."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from fractions import Fraction
from typing import Any, Literal, NamedTuple

from msgspec import Struct

from kivant.core.findings.finding import Finding, Severity
from kivant.core.machine.parts import Axis, Machine
from kivant.core.path import Path

Subject = Literal["machine", "routine", "simulation"]
Edit = Callable[[Machine], Machine]


class Case(NamedTuple):
    """Where a check found something, the figures its words tell, and whether a machine could mend it."""

    place: Path
    figures: dict[str, Any]
    mends: bool = True


class FindingKind(Struct, frozen=True):
    """A kind of finding.

    Parameters
    ----------
    code : str
        Its name for programs.
    severity : str
        ``error``: it must not be run so; ``warning``: it will not do what is wished; ``note``: worth knowing.
    subject : str
        What its check looks at: the machine, one routine of it, or what simulated rotors make of that.
    title : str
        What is checked, in a sentence.
    check : callable
        Yields a `Case` for each place: ``check(machine)``, or for a routine ``check(checked)``, which is given the
        `CheckedRoutine`.
    message, remedy : str
        The words, with the names of the case's figures in braces.
    mend : callable, optional
        Returns the edit that makes the finding at a place go away; None where only a person can.
    """

    code: str
    severity: Severity
    subject: Subject
    title: str
    check: Callable[..., Iterator[Case]]
    message: str
    remedy: str
    mend: Callable[[Path], Edit] | None = None

    def finding(self, case: Case) -> Finding:
        """Return the finding of one case."""
        message, remedy = self.message.format(**case.figures), self.remedy.format(**case.figures)
        return Finding(self.code, self.severity, case.place, message, remedy, case.mends)


def figure(value: float | Fraction) -> str:
    """Return a figure as a person writes it: six significant digits, no needless zeros."""
    return f"{float(value):.6g}"


def axis_at(machine: Machine, place: Path) -> tuple[int, Axis]:
    """Return the axis a place lies in, with its index.

    Raises
    ------
    ValueError
        If it lies in none.
    """
    index = place.axis
    if index is None:
        raise ValueError(f"{place} is not part of an axis")
    return index, machine.axes[index]
