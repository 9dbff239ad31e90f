"""A column that turns, with an arm that reaches out and a lift."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any, Literal

from kivant.core.fields import Extra, Name, Part
from kivant.core.geometry.kind import Functions, Geometry, GeometryKind, Role, ToolAcceleration, ToolSpeed


class CylindricalAxes(Part, frozen=True, kw_only=True):
    """Which axis turns, which reaches out, and which lifts."""

    turn: Name
    reach: Name
    z: Name | None = None


class Cylindrical(Geometry, frozen=True, kw_only=True):
    """The tool is at a turn, counter-clockwise from x seen from above, and at a reach from the middle."""

    kind: Literal["cylindrical"] = "cylindrical"
    axes: CylindricalAxes
    tool_speed: ToolSpeed = None
    tool_acceleration: ToolAcceleration = None
    x: Extra = None


def _forward(_geometry: Cylindrical, at: Mapping[str, Any], functions: Functions) -> tuple[Any, ...]:
    turn = functions.radians(at["turn"])
    return at["reach"] * functions.cos(turn), at["reach"] * functions.sin(turn), at["z"]


def _inverse(_geometry: Cylindrical, place: tuple[Any, ...], functions: Functions) -> Mapping[str, Any]:
    x, y, z = place
    return {"turn": functions.degrees(functions.atan2(y, x)), "reach": functions.hypot(x, y), "z": z}


def _links(_geometry: Cylindrical, at: Mapping[str, float]) -> tuple[tuple[float, float], ...]:
    turn = math.radians(at["turn"])
    return ((0.0, 0.0), (at["reach"] * math.cos(turn), at["reach"] * math.sin(turn)))


CYLINDRICAL = GeometryKind(
    type=Cylindrical,
    title="A turning column with a reach",
    roles=(Role("turn", "turns the column", "deg", turns=True), Role("reach", "reaches out", "mm"),
           Role("z", "lifts", "mm", optional=True)),
    coordinates=("x", "y", "z"),
    forward=_forward,
    inverse=_inverse,
    links=_links,
)  # fmt: skip
