"""Written texts: laid out once, and then drawn in a third of the time, where many of them stand in a list."""

from __future__ import annotations

from functools import lru_cache

from PySide6.QtCore import QPointF, QRect, Qt
from PySide6.QtGui import QFontMetrics, QPainter, QStaticText, QTransform

from kivant.desktop.kit.theme import Role, font

_KNOWN = 4096


@lru_cache(_KNOWN)
def _laid_out(text: str, role: Role) -> tuple[QStaticText, int, int]:
    found = QStaticText(text)
    found.setTextFormat(Qt.TextFormat.PlainText)
    found.prepare(QTransform(), font(role))
    metrics = QFontMetrics(font(role))
    return found, metrics.horizontalAdvance(text), metrics.height()


@lru_cache(_KNOWN)
def _elided(text: str, role: Role, width: int) -> str:
    return QFontMetrics(font(role)).elidedText(text, Qt.TextElideMode.ElideRight, width)


def advance(text: str, role: Role) -> int:
    """Return how wide a text is, pixels."""
    return _laid_out(text, role)[1]


def write(painter: QPainter, box: QRect, text: str, role: Role, *, at_right: bool = False) -> int:
    """Write a text at the left or right of a box, in the middle of its height, as much as fits; return how wide it is.

    The pen is the painter's.
    """
    static, wide, high = _laid_out(_elided(text, role, box.width()), role)
    left = box.left() + box.width() - wide if at_right else box.left()
    painter.setFont(font(role))
    painter.drawStaticText(QPointF(left, box.top() + (box.height() - high) // 2), static)
    return wide
