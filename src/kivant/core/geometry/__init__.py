"""The kinds of geometry: how axes move a tool. One module for each, and the table of them all.

A machine without a geometry is of axes that are independent of one another.
"""

from __future__ import annotations

from kivant.core.geometry.cylindrical import CYLINDRICAL, Cylindrical, CylindricalAxes
from kivant.core.geometry.independent import INDEPENDENT, Independent
from kivant.core.geometry.kind import Geometry, GeometryKind, Role
from kivant.core.geometry.sums import CROSSED_BELTS, DIFFERENTIAL, CrossedBelts, Differential, SumAxes
from kivant.core.geometry.two_link import TWO_LINK, TwoLink, TwoLinkAxes

__all__ = [
    "GEOMETRIES", "CrossedBelts", "Cylindrical", "CylindricalAxes", "Differential", "Geometry", "GeometryKind",
    "Independent", "Role", "SumAxes", "TwoLink", "TwoLinkAxes", "geometry_kind",
]  # fmt: skip

GEOMETRIES: dict[str, GeometryKind] = {
    "independent": INDEPENDENT,
    "cylindrical": CYLINDRICAL, "two_link": TWO_LINK, "crossed_belts": CROSSED_BELTS, "differential": DIFFERENTIAL,
}  # fmt: skip
"""Every kind by the value of the key ``kind``, in the order in which they are offered."""


def geometry_kind(geometry: Geometry) -> GeometryKind:
    """Return the record of a geometry's kind."""
    return GEOMETRIES[geometry.kind]
