"""The Ramp station's record: its plate shows the ramp of the axis."""

from __future__ import annotations

from PySide6.QtCore import QPointF
from PySide6.QtGui import QColor, QPainter, QPolygonF
from PySide6.QtWidgets import QWidget

from kivant.core.machine import Axis
from kivant.core.motion.rates import ramp_time_s
from kivant.desktop.kit import figures
from kivant.desktop.state.session import Session
from kivant.desktop.stations.kind import StationKind


def _figure(_session: Session, axis: Axis) -> str:
    return f"{figures.short(axis.limits.speed)} {axis.unit}/s"


def _second(_session: Session, axis: Axis) -> str:
    seconds = ramp_time_s(axis)
    return "as torque allows" if seconds is None else f"in {figures.short(seconds)} s" if seconds else "without a ramp"


def _picture(painter: QPainter, _session: Session, axis: Axis, middle: QPointF, _color: QColor) -> None:
    """Paint acceleration, cruise and deceleration in their own shares, from the axis's own start speed."""
    limits = axis.limits
    start = min(limits.start_speed / limits.speed, 1.0)
    up, down = (1 - start) / limits.acceleration, (1 - start) / limits.deceleration
    whole = (up + down) * 1.5 or 1.0
    left, base = middle.x() - 15, middle.y() + 9
    corners = ((0.0, 0.0), (0.0, start), (up, 1.0), (whole - down, 1.0), (whole, start), (whole, 0.0))
    painter.drawPolyline(QPolygonF([QPointF(left + t / whole * 30, base - v * 18) for t, v in corners]))


def _page(session: Session) -> QWidget:
    from kivant.desktop.stations.ramp.station import RampStation  # loaded when it is first shown

    return RampStation(session)


RAMP = StationKind(
    key="ramp",
    title="Ramp",
    page=_page,
    figure=_figure,
    second=_second,
    picture=_picture,
    places=(("axes", "*", "limits"),),
    keys=(("Page Up, Page Down", "go from handle to handle"), ("Up, Down", "change the limit of that handle")),
)
