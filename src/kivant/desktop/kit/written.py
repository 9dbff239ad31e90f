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


def write_left(painter: QPainter, box: QRect, text: str, role: Role) -> int:
    """Write a text at the left of a box, in the middle of its height, as much as fits; return how wide it is."""
    static, wide, high = _laid_out(_elided(text, role, box.width()), role)
    painter.setFont(font(role))
    painter.drawStaticText(QPointF(box.left(), box.top() + (box.height() - high) // 2), static)
    return wide


def write_right(painter: QPainter, box: QRect, text: str, role: Role) -> None:
    """Write a text at the right of a box, in the middle of its height, as much as fits."""
    static, wide, high = _laid_out(_elided(text, role, box.width()), role)
    painter.setFont(font(role))
    top = box.top() + (box.height() - high) // 2
    painter.drawStaticText(QPointF(box.left() + box.width() - wide, top), static)
