"""The Run station's record: its plate shows the board's lamp and how much has been run."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter
from PySide6.QtWidgets import QWidget

from kivant.core.machine import Axis
from kivant.desktop.kit import figures
from kivant.desktop.kit.theme import Token
from kivant.desktop.state.session import Session
from kivant.desktop.stations.kind import StationKind


def _figure(session: Session, _axis: Axis) -> str:
    made = session.planning.plan
    if made is None:
        return "no plan"
    moving = sum(axis.steps > 0 for axis in made.axes)
    return f"{moving} {'axis' if moving == 1 else 'axes'}, {figures.brief_seconds(made.duration)}"


def _second(session: Session, _axis: Axis) -> str:
    return session.running.status.phase if session.running.status else "idle"


def _picture(painter: QPainter, session: Session, _axis: Axis, middle: QPointF, _color: QColor) -> None:
    """Paint the lamp of the board, and around it how much of the plan has been run."""
    theme, running = session.theme, session.running
    box = QRectF(middle.x() - 11, middle.y() - 11, 22, 22)
    painter.drawEllipse(box)
    agrees = running.status is not None and running.status.agrees
    token: Token = "accent" if running.active else "good" if agrees else "muted"
    if running.active:
        painter.setPen(theme.pen(theme.color("accent"), 3))
        painter.drawArc(box, 90 * 16, round(-360 * 16 * running.progress))
    painter.setBrush(theme.color(token))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.drawEllipse(middle, 4.5, 4.5)


def _page(session: Session) -> QWidget:
    from kivant.desktop.stations.run.station import RunStation  # loaded when it is first shown

    return RunStation(session)


RUN = StationKind(
    key="run",
    title="Run",
    page=_page,
    figure=_figure,
    second=_second,
    picture=_picture,
    places=(("move",),),
    follows=("run",),
    keys=(("+, −", "pull by hand while held"), ("Ctrl+M", "a move of your own"), ("Ctrl+K", "save it as a routine")),
)
