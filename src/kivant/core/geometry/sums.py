"""Two motors that share two movements: each moves with their sum, the other with their difference."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Literal

from kivant.core.fields import Extra, Name, Part
from kivant.core.geometry.kind import Functions, Geometry, GeometryKind, Role, ToolAcceleration, ToolSpeed


class SumAxes(Part, frozen=True, kw_only=True):
    """Which axes are the two."""

    a: Name
    b: Name


class CrossedBelts(Geometry, frozen=True, kw_only=True):
    """Two motors on one belt: x = (a + b) / 2, y = (a - b) / 2."""

    kind: Literal["crossed_belts"] = "crossed_belts"
    axes: SumAxes
    tool_speed: ToolSpeed = None
    tool_acceleration: ToolAcceleration = None
    x: Extra = None


class Differential(Geometry, frozen=True, kw_only=True):
    """Two motors on one bevel gear: turn = (a + b) / 2, tilt = (a - b) / 2."""

    kind: Literal["differential"] = "differential"
    axes: SumAxes
    tool_speed: ToolSpeed = None
    tool_acceleration: ToolAcceleration = None
    x: Extra = None


def _forward(_geometry: Any, at: Mapping[str, Any], _functions: Functions) -> tuple[Any, ...]:
    return (at["a"] + at["b"]) / 2, (at["a"] - at["b"]) / 2


def _inverse(_geometry: Any, place: tuple[Any, ...], _functions: Functions) -> Mapping[str, Any]:
    return {"a": place[0] + place[1], "b": place[0] - place[1]}


def _links(geometry: Any, at: Mapping[str, float]) -> tuple[tuple[float, float], ...]:
    x, y = _forward(geometry, at, None)
    return ((x, y),)


CROSSED_BELTS = GeometryKind(
    type=CrossedBelts,
    title="Two motors on a crossed belt",
    roles=(Role("a", "is one motor", "mm"), Role("b", "is the other", "mm")),
    coordinates=("x", "y"),
    forward=_forward,
    inverse=_inverse,
    links=_links,
)
DIFFERENTIAL = GeometryKind(
    type=Differential,
    title="Two motors on a differential",
    roles=(Role("a", "is one motor", "deg"), Role("b", "is the other", "deg")),
    coordinates=("turn", "tilt"),
    forward=_forward,
    inverse=_inverse,
)
