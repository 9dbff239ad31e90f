"""An arm of two links that turn in a plane, with or without a lift.

References
----------
J. J. Craig, *Introduction to Robotics*, 3rd ed., Pearson, 2005, sec. 4.4 (the planar arm by the law of cosines).
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from typing import Annotated, Any, Literal

from kivant.core.bounds import MaxLen
from kivant.core.errors import Fault
from kivant.core.fields import About, Extra, Name, Part, Positive
from kivant.core.geometry.kind import Functions, Geometry, GeometryKind, Role, ToolAcceleration, ToolSpeed
from kivant.core.path import Path


class TwoLinkAxes(Part, frozen=True, kw_only=True):
    """Which axis turns the shoulder, which the elbow, and which lifts."""

    shoulder: Name
    elbow: Name
    z: Name | None = None


class TwoLink(Geometry, frozen=True, kw_only=True):
    """Shoulder angle from x, elbow angle from the first link, both counter-clockwise seen from above."""

    kind: Literal["two_link"] = "two_link"
    axes: TwoLinkAxes
    lengths_mm: Annotated[tuple[Positive, ...], MaxLen(2), About("Upper arm and forearm", "mm")]
    elbow: Annotated[Literal["left", "right"], About("On which side of the line from shoulder to tool")] = "left"
    tool_speed: ToolSpeed = None
    tool_acceleration: ToolAcceleration = None
    x: Extra = None


def _forward(geometry: TwoLink, at: Mapping[str, Any], functions: Functions) -> tuple[Any, ...]:
    upper, fore = geometry.lengths_mm
    shoulder = functions.radians(at["shoulder"])
    both = shoulder + functions.radians(at["elbow"])
    x = upper * functions.cos(shoulder) + fore * functions.cos(both)
    return x, upper * functions.sin(shoulder) + fore * functions.sin(both), at["z"]


def _inverse(geometry: TwoLink, place: tuple[Any, ...], functions: Functions) -> Mapping[str, Any]:
    upper, fore = geometry.lengths_mm
    x, y, z = place
    far, wide, narrow = functions.hypot(x, y), upper + fore, upper - fore
    # The law of cosines for half of the angle, which is exact for a folded arm, too. Below 0 it is beyond the reach.
    squares = (wide - far) * (wide + far), (far - narrow) * (far + narrow)
    bend = 2 * functions.atan2(*(functions.sqrt((square + functions.fabs(square)) / 2) for square in squares))
    elbow = -bend if geometry.elbow == "left" else bend
    inner = functions.atan2(fore * functions.sin(elbow), (far * far + narrow * wide) / (2 * upper))
    turned = functions.degrees(functions.atan2(y, x) - inner)
    return {"shoulder": (turned + 180.0) % 360.0 - 180.0, "elbow": functions.degrees(elbow), "z": z}


def _faults(geometry: TwoLink, path: Path) -> Iterator[Fault]:
    if len(geometry.lengths_mm) != 2:
        message = f"Expected the lengths of two links; found {len(geometry.lengths_mm)}."
        yield Fault(path / "lengths_mm", message, "Write upper arm and forearm, such as [120, 100].")


def _links(geometry: TwoLink, at: Mapping[str, float]) -> tuple[tuple[float, float], ...]:
    upper, shoulder = geometry.lengths_mm[0], math.radians(at["shoulder"])
    x, y, _z = _forward(geometry, at, math)
    return ((0.0, 0.0), (upper * math.cos(shoulder), upper * math.sin(shoulder)), (x, y))


TWO_LINK = GeometryKind(
    type=TwoLink,
    title="An arm of two links",
    roles=(
        Role("shoulder", "turns the shoulder", "deg", turns=True),
        Role("elbow", "turns the elbow", "deg", turns=True),
        Role("z", "lifts", "mm", optional=True),
    ),
    coordinates=("x", "y", "z"),
    forward=_forward,
    inverse=_inverse,
    faults=_faults,
    links=_links,
)  # fmt: skip
