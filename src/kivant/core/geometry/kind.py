"""What every kind of geometry is to the rest of the core: one record."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from typing import TYPE_CHECKING, Annotated, Any

from msgspec import Struct

from kivant.core.errors import Fault
from kivant.core.fields import About, Part, Positive
from kivant.core.path import Path

ToolSpeed = Annotated[Positive | None, About("Greatest speed of the tool, in mm/s (deg/s); left out: no limit")]
ToolAcceleration = Annotated[
    Positive | None, About("Greatest acceleration of the tool, in mm/s² (deg/s²); left out: no limit")
]

Place = tuple[float, ...]
"""Where the tool is: the coordinates of its geometry, in their order."""
Functions = Any
"""`math` for numbers, NumPy for arrays: both have ``sin``, ``atan2``, ``hypot`` and ``radians`` by these names."""


class Geometry(Part, frozen=True, kw_only=True):
    """How axes move the tool; ``kind`` names how, ``axes`` which axis has which part in it."""

    if TYPE_CHECKING:
        kind: str
        axes: Any
        tool_speed: float | None
        tool_acceleration: float | None


class Role(Struct, frozen=True):
    """The part that an axis has in a geometry: its key, what it is, its unit, and whether there may be none.

    ``turns`` says that a whole turn of it leaves the tool where it is.
    """

    key: str
    words: str
    unit: str
    optional: bool = False
    turns: bool = False


class GeometryKind(Struct, frozen=True):
    """All that the core knows of a kind of geometry.

    Parameters
    ----------
    type : type
        The data of one geometry of this kind.
    title : str
        What it is called where it is offered.
    roles : tuple of Role
    coordinates : tuple of str
        What tells where the tool is, in order: ``x``, ``y`` and ``z``, or others.
    forward : callable (geometry, positions, functions)
        Where the tool is; positions by role, numbers or arrays, in axis units. A role without an axis is 0.
    inverse : callable (geometry, place, functions)
        The positions by role that put the tool at a place, numbers or arrays; of one that the lengths do not reach,
        those that put it in the same direction as near as they allow.
    faults : callable (geometry, path)
        What is wrong between its fields.
    links : callable (geometry, positions)
        The joints of what carries the tool, from the middle outwards, as points seen from above, mm; none, where it
        carries it in another way.
    """

    type: type[Geometry]
    title: str
    roles: tuple[Role, ...]
    coordinates: tuple[str, ...]
    forward: Callable[[Any, Mapping[str, Any], Functions], tuple[Any, ...]]
    inverse: Callable[[Any, tuple[Any, ...], Functions], Mapping[str, Any]]
    faults: Callable[[Any, Path], Iterator[Fault]] = lambda _geometry, _path: iter(())
    links: Callable[[Any, Mapping[str, float]], tuple[tuple[float, float], ...]] = lambda _geometry, _positions: ()
