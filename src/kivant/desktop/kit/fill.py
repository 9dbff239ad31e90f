"""Boxes of the first picture that the window shows."""

from __future__ import annotations

from PySide6.QtCore import QRect, QRectF, Qt
from PySide6.QtGui import QColor, QPainter


def fill(painter: QPainter, box: QRect | QRectF, color: QColor) -> None:
    """Fill a box of the first picture with a colour.

    The toolkit's own `fillRect` is as good; but when it is first asked for, it lists all its gradients to the
    interpreter, which takes as long as a tenth of that picture.
    """
    painter.save()
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(color)
    painter.drawRect(box)
    painter.restore()
