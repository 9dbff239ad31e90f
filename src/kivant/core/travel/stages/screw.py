"""A screw as the drive of a slide: one revolution is its lead."""

from __future__ import annotations

from collections.abc import Iterator
from decimal import Decimal
from fractions import Fraction
from typing import Annotated, Literal

from msgspec.structs import replace

from kivant.core.errors import Fault
from kivant.core.fields import About, Count, DecimalText, Extra
from kivant.core.path import Path
from kivant.core.travel.stages.kind import Common, Reverses, Stage, StageKind


class Screw(Stage, frozen=True, kw_only=True):
    """A screw: by its lead, or by the pitch of its thread and the number of its starts."""

    stage: Literal["screw"] = "screw"
    lead: Annotated[DecimalText | None, About("Travel of one revolution", "mm")] = None
    pitch: Annotated[DecimalText | None, About("From thread to thread, instead of `lead`", "mm")] = None
    starts: Annotated[Count | None, About("Threads side by side, with `pitch`")] = None
    reverses: Reverses = None
    x: Extra = None


def lead_of(screw: Screw) -> Decimal:
    """Return the travel of one revolution, mm: the lead, or as many pitches as there are starts; 1 where neither is."""
    if screw.lead is not None:
        return screw.lead
    return (screw.pitch or Decimal(1)) * (screw.starts or 1)


def _faults(screw: Screw, place: Path) -> Iterator[Fault]:
    if (screw.lead is None) == (screw.pitch is None):
        found = "both" if screw.lead is not None else "neither"
        message = f"A screw has a lead, or a pitch and starts; found {found}."
        yield Fault(place, message, "Keep one of the two.")
    elif screw.starts is not None and screw.pitch is None:
        yield Fault(
            place / "starts", "Starts belong to a pitch.", "Remove them, or give the pitch instead of the lead."
        )


def _otherwise(screw: Screw) -> Screw:
    """Return a screw of the same lead, by its thread if it was by its lead, and the other way round."""
    if screw.lead is not None:
        return replace(screw, lead=None, pitch=screw.lead, starts=1)
    return replace(screw, lead=lead_of(screw), pitch=None, starts=None)


_THREADS = (
    Common("0.5", "M3 thread"),
    Common("0.7", "M4 thread"),
    Common("0.8", "M5 thread"),
    Common("1", "M6 thread"),
    Common("1.25", "M8 thread"),
    Common("1.5", "M10 thread"),
    Common("1.75", "M12 thread"),
    Common("2", "M14, M16 thread"),
)
"""Coarse threads (ISO 261)."""
_INCH = (
    Common("1.27", "20 an inch"),
    Common("1.5875", "16 an inch"),
    Common("2.54", "10 an inch"),
    Common("3.175", "1/8 in"),
    Common("5.08", "5 an inch"),
    Common("6.35", "1/4 in"),
    Common("12.7", "1/2 in"),
    Common("25.4", "1 in"),
)

SCREW = StageKind(
    type=Screw,
    name="screw",
    ratio=lambda stage: 1 / Fraction(lead_of(stage)),
    linear=True,
    new=Screw(lead=Decimal(8)),
    fields=(("lead", "screw lead", "length"), ("pitch", "thread pitch", "length"), ("starts", "starts", "teeth")),
    common={"lead": (*_THREADS, *map(Common, ("3", "4", "5", "8", "10", "16", "20", "25")), *_INCH), "pitch": _THREADS},
    words=lambda stage: f"a turn moves the nut {lead_of(stage):f} mm",
    faults=_faults,
    in_use=lambda stage: ("lead",) if stage.lead is not None else ("pitch", "starts"),
    otherwise=_otherwise,
)
