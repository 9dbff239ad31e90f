"""The Phases station's record: its plate shows the row in force."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter
from PySide6.QtWidgets import QWidget

from kivant.core.drive.rotor import electrical_eighth
from kivant.core.machine import Axis
from kivant.core.travel.conversion import steps_per_rev
from kivant.desktop.state.session import Session
from kivant.desktop.stations.kind import StationKind
from kivant.desktop.stations.phases.looks import LOOKS


def _figure(_session: Session, axis: Axis) -> str:
    return LOOKS[axis.driver.kind].figure(axis)


def _row(session: Session, axis: Axis) -> int | None:
    return electrical_eighth(axis, session.instant.steps_moved)


def _picture(painter: QPainter, session: Session, axis: Axis, middle: QPointF, color: QColor) -> None:
    """Paint the ring of rows with the one in force."""
    row = _row(session, axis)
    for k in range(8):
        angle = k * math.pi / 4
        painter.setBrush(color if k == row else Qt.BrushStyle.NoBrush)
        painter.drawEllipse(middle + QPointF(math.sin(angle), -math.cos(angle)) * 12, 2.6, 2.6)


def _page(session: Session) -> QWidget:
    from kivant.desktop.stations.phases.station import PhasesStation  # loaded when it is first shown

    return PhasesStation(session)


PHASES = StationKind(
    key="phases",
    title="Phases",
    page=_page,
    figure=_figure,
    second=lambda _session, axis: f"{steps_per_rev(axis)} steps/rev",
    picture=_picture,
    shows=_row,
    places=(
        ("axes", "*", "driver"),
        ("axes", "*", "motor", "winding"),
        ("axes", "*", "motor", "leads"),
        ("supplies",),
        ("board",),
    ),
    follows=("playhead",),
    keys=(
        ("0 … 7", "go to the next time that row is on"),
        ("Ctrl+PgUp, PgDn", "the face before, after"),
        ("+, −", "one row on, back by hand"),
    ),
)
