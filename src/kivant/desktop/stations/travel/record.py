"""The Travel station's record: its plate shows the stages on their shaft."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QColor, QPainter
from PySide6.QtWidgets import QWidget

from kivant.core.machine import Axis
from kivant.core.travel.conversion import steps_per_unit
from kivant.desktop.kit import figures
from kivant.desktop.state.session import Session
from kivant.desktop.stations.kind import StationKind
from kivant.desktop.stations.travel.stage_pictures import PICTURES

_WIDE = 40.0


def _figure(_session: Session, axis: Axis) -> str:
    return f"{figures.short(float(steps_per_unit(axis)))} steps/{axis.unit}"


def _resolution(_session: Session, axis: Axis) -> str:
    return f"{figures.short(float(1 / steps_per_unit(axis)))} {axis.unit} a step"


def _picture(painter: QPainter, _session: Session, axis: Axis, middle: QPointF, _color: QColor) -> None:
    """Paint the stages side by side on their shaft; a bare shaft where there are none."""
    left = middle.x() - _WIDE / 2
    shown = axis.travel[:3]
    room = _WIDE / max(len(shown), 1)
    if not shown:
        painter.drawLine(QPointF(left, middle.y()), QPointF(left + _WIDE, middle.y()))
        painter.drawEllipse(middle, 6, 6)
    for k, stage in enumerate(shown):
        PICTURES[stage.stage].small(painter, stage, QRectF(left + k * room + 1, middle.y() - 12, room - 2, 24))


def _page(session: Session) -> QWidget:
    from kivant.desktop.stations.travel.station import TravelStation  # loaded when it is first shown

    return TravelStation(session)


TRAVEL = StationKind(
    key="travel",
    title="Travel",
    page=_page,
    figure=_figure,
    second=_resolution,
    picture=_picture,
    shows=lambda _session, axis: axis.travel,
    places=(
        ("axes", "*", "travel"),
        ("axes", "*", "motor", "full_steps_per_rev"),
        ("axes", "*", "unit"),
        ("axes", "*", "positive"),
        ("axes", "*", "calibration"),
        ("axes", "*", "limits", "wrap"),
        ("axes", "*", "limits", "min"),
        ("axes", "*", "limits", "max"),
    ),
)
