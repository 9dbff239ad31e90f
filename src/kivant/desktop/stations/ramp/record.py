"""The Ramp station's record: its plate shows the ramp of the axis."""

from __future__ import annotations

from PySide6.QtCore import QPointF
from PySide6.QtGui import QColor, QPainter, QPainterPath
from PySide6.QtWidgets import QWidget

from kivant.core.machine import Axis
from kivant.core.machine.parts import shape_of
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
    limits, shape = axis.limits, shape_of(axis.limits)
    left, base = middle.x() - 15, middle.y() + 9
    if shape == "none":
        up, down, start = 0.0, 0.0, 0.0
    else:
        start = min(limits.start_speed / limits.speed, 1.0)
        up, down = (1 - start) / limits.acceleration, (1 - start) / limits.deceleration
    whole = (up + down) * 1.5 or 1.0

    def at(t: float, v: float) -> QPointF:
        return QPointF(left + t / whole * 30, base - v * 18)

    path = QPainterPath(at(0.0, 0.0))
    path.lineTo(at(0.0, start))
    gain = 1 - start
    # An S-curve leaves and arrives level; what follows the torque rises steeply first.
    bend = {"s_curve": ((0.5, 0.0), (0.5, 1.0)), "torque": ((0.1, 0.6), (0.4, 0.95))}.get(
        shape, ((0.3, 0.3), (0.7, 0.7))
    )
    (a, b), (c, d) = bend
    path.cubicTo(at(a * up, start + b * gain), at(c * up, start + d * gain), at(up, 1.0))
    path.lineTo(at(whole - down, 1.0))
    path.cubicTo(at(whole - c * down, start + d * gain), at(whole - a * down, start + b * gain), at(whole, start))
    path.lineTo(at(whole, 0.0))
    painter.drawPath(path)


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
    shows=lambda _session, axis: axis.limits,
    places=(("axes", "*", "limits"),),
    keys=(
        ("Page Up, Page Down", "go from handle to handle"),
        ("Up, Down", "change the limit of that handle"),
    ),
)
