"""How widgets paint: with a painter that ends with the painting, whatever is raised meanwhile.

An exception keeps the painter alive in its traceback. The toolkit does not survive a painter that outlives what it
paints on.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import wraps
from typing import TypeVar

from PySide6.QtGui import QPainter, QPaintEvent, QPixmap
from PySide6.QtWidgets import QWidget

AnyWidget = TypeVar("AnyWidget", bound=QWidget)


@contextmanager
def painting(device: QWidget | QPixmap) -> Iterator[QPainter]:
    """Give a painter for a widget or a picture, with smooth edges, and end it."""
    painter = QPainter(device)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    try:
        yield painter
    finally:
        painter.end()


def painted(paint: Callable[[AnyWidget, QPainter], None]) -> Callable[[AnyWidget, QPaintEvent], None]:
    """Make a ``paintEvent`` of what paints a widget."""

    @wraps(paint)
    def paint_event(widget: AnyWidget, _event: QPaintEvent) -> None:
        with painting(widget) as painter:
            paint(widget, painter)

    return paint_event
