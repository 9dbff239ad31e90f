"""The Motor station's record: its plate shows how fast the motor could go."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QColor, QPainter
from PySide6.QtWidgets import QWidget

from kivant.core.machine import Axis
from kivant.core.travel.conversion import rotor_turns_per_unit
from kivant.desktop.kit import figures
from kivant.desktop.state.session import Session
from kivant.desktop.stations.kind import StationKind


def _figure(session: Session, axis: Axis) -> str:
    speed, _by = session.bench.abilities.top_speed(session.choice.index)
    return f"{figures.rough3(speed * float(rotor_turns_per_unit(axis)) * 60)} rpm"


def _second(session: Session, _axis: Axis) -> str:
    return f"limit: {session.bench.abilities.top_speed(session.choice.index)[1]}"


def _picture(painter: QPainter, _session: Session, _axis: Axis, middle: QPointF, _color: QColor) -> None:
    """Paint torque that gets less with speed, and the load below it."""
    left, base = middle.x() - 15, middle.y() + 10
    painter.drawPolyline([QPointF(left + dx, base - dy) for dx, dy in ((0, 18), (11, 17), (20, 10), (30, 0))])
    painter.drawLine(QPointF(left, base - 5), QPointF(left + 25, base - 5))
    painter.drawEllipse(QRectF(left + 23, base - 7, 4, 4))


def _page(session: Session) -> QWidget:
    from kivant.desktop.stations.motor.station import MotorStation  # loaded when it is first shown

    return MotorStation(session)


MOTOR = StationKind(
    key="motor",
    title="Motor",
    page=_page,
    figure=_figure,
    second=_second,
    picture=_picture,
    places=(
        ("axes", "*", "motor"),
        ("axes", "*", "load"),
        ("axes", "*", "margin"),
        ("axes", "*", "driver", "current_a"),
        ("axes", "*", "driver", "connection"),
    ),
)
