"""The Routine station's record: its plate shows the blocks as slips, and how long they take."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QColor, QPainter
from PySide6.QtWidgets import QWidget

from kivant.core.machine import Axis
from kivant.desktop.kit import figures
from kivant.desktop.kit.theme import Token
from kivant.desktop.state.session import Session
from kivant.desktop.stations.kind import StationKind

_MOST_SLIPS = 4
_KEYS = (
    ("Enter, F2, Insert", "change, name, new block"),
    ("Ctrl+D, E, P", "duplicate, switch off, repeat"),
    ("Alt+arrows", "move a block"),
    ("+, −, 0", "zoom the lanes, fit"),
)
"""Each key and what it means, for the keys sheet."""


def _figure(session: Session, _axis: Axis) -> str:
    made = session.planning.plan
    return "no plan" if made is None else figures.brief_seconds(made.duration)


def _second(session: Session, _axis: Axis) -> str:
    return figures.shortened(session.choice.routine_name or "a move of your own", 22)


def _picture(painter: QPainter, session: Session, _axis: Axis, middle: QPointF, color: QColor) -> None:
    """Paint a slip for each of the first blocks, each where it is in time."""
    made, theme = session.planning.plan, session.theme
    if made is None or not len(made.blocks) or not made.duration:
        return
    listed = made.blocks.listed
    own = (listed.depth == 0).nonzero()[0][:_MOST_SLIPS]
    whole = float(listed.end_s[own[-1]]) or 1.0
    token: Token = "muted"
    for row, entry in enumerate(own.tolist()):
        left, right = (38 * float(t[entry]) / whole for t in (listed.begin_s, listed.end_s))
        painter.setPen(theme.pen(color if row == 0 else theme.color(token), 1.4))
        box = QRectF(middle.x() - 19 + left, middle.y() - 12 + row * 6.5, max(right - left, 2.5), 4)
        painter.drawRoundedRect(box, 1.5, 1.5)


def _page(session: Session) -> QWidget:
    from kivant.desktop.stations.routine.station import RoutineStation  # loaded when it is first shown

    return RoutineStation(session)


ROUTINE = StationKind(
    key="routine",
    title="Routine",
    page=_page,
    figure=_figure,
    second=_second,
    picture=_picture,
    shows=lambda session, _axis: session.planning.plan.blocks if session.planning.plan else None,
    places=(("routines",), ("poses",), ("geometry",)),
    follows=(),
    keys=_KEYS,
)
