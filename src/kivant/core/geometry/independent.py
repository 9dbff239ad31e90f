"""Axes that are independent of one another: there is no tool that they move together."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Literal

from kivant.core.fields import Extra
from kivant.core.geometry.kind import Functions, Geometry, GeometryKind


class Independent(Geometry, frozen=True, kw_only=True):
    """What a machine without a geometry has, too."""

    kind: Literal["independent"] = "independent"
    x: Extra = None


def _forward(_geometry: Any, _at: Mapping[str, Any], _functions: Functions) -> tuple[Any, ...]:
    return ()


def _inverse(_geometry: Any, _place: tuple[Any, ...], _functions: Functions) -> Mapping[str, Any]:
    return {}


INDEPENDENT = GeometryKind(
    type=Independent, title="Independent axes", roles=(), coordinates=(), forward=_forward, inverse=_inverse
)
