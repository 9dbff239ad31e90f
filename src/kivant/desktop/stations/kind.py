"""What every station is to the frame: one record."""

from __future__ import annotations

from collections.abc import Callable

from msgspec import Struct
from PySide6.QtCore import QPointF
from PySide6.QtGui import QColor, QPainter
from PySide6.QtWidgets import QWidget

from kivant.core.machine import Axis
from kivant.desktop.state.session import Session


class StationKind(Struct, frozen=True):
    """A station and its plate on the chain.

    Parameters
    ----------
    key : str
        Its name for programs.
    title : str
        Its name for people.
    page : callable
        Makes its widget.
    figure, second : callable (session, axis)
        The figure that matters, and the line below it.
    picture : callable (painter, session, axis, middle, color)
        Paints its small live picture, 40 by 28 pixels around a middle point.
    places : tuple of tuples
        The key paths it is the place for, as prefixes; ``*`` stands for any index.
    shows : callable (session, axis)
        What its picture is made from; where that is the same as before, so is the picture.
    follows : tuple of str
        What its picture follows besides the machine: ``playhead``, ``run``.
    keys : tuple of (str, str)
        The keys that mean something there only, and what.
    """

    key: str
    title: str
    page: Callable[[Session], QWidget]
    figure: Callable[[Session, Axis], str]
    second: Callable[[Session, Axis], str]
    picture: Callable[[QPainter, Session, Axis, QPointF, QColor], None]
    places: tuple[tuple[str, ...], ...]
    shows: Callable[[Session, Axis], object] = lambda _session, _axis: None
    follows: tuple[str, ...] = ()
    keys: tuple[tuple[str, str], ...] = ()
