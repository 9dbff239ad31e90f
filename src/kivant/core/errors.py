"""The one family of errors that a user can cause, and the facts each of them carries."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Fault:
    """One thing that is wrong: where, what was found and expected, and what to do.

    Parameters
    ----------
    place : str
        Key path in the project file (``axes[1].limits.speed``), a line and column, or a field's name.
    message : str
        What was found and what was expected, as a sentence.
    remedy : str
        What a maker can do about it, as a sentence.
    """

    place: str
    message: str
    remedy: str = ""

    def __str__(self) -> str:
        where = f"{self.place}: " if self.place else ""
        return f"{where}{self.message}" + (f" {self.remedy}" if self.remedy else "")


class KivantError(Exception):
    """Something the user can put right; ``faults`` lists all of it, at least one."""

    def __init__(self, *faults: Fault) -> None:
        super().__init__("\n".join(str(fault) for fault in faults))
        self.faults = faults


class ValueTextError(KivantError):
    """A typed value (``90deg``) that cannot be understood or does not fit the axis."""
