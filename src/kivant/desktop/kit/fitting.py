"""Texts in boxes: of several that say the same in ever fewer words, the one for which there is room."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter

NARROWEST = 13.0
"""Pixels of a box in which a letter could stand."""
_LEAST = 3  # letters: fewer, and what is cut off cannot be guessed


def write_fitting(
    painter: QPainter, ink: QColor, box: QRectF, texts: Sequence[str], margin: float,
    where: Qt.AlignmentFlag = Qt.AlignmentFlag.AlignCenter,
) -> None:  # fmt: skip
    """Write the first text that fits into a box, or as much of the last one as does.

    `margin` is what stays free on both sides together, pixels.
    """
    metrics, width = painter.fontMetrics(), int(box.width() - margin)
    text = next((text for text in texts if metrics.horizontalAdvance(text) <= width), None)
    if text is None:
        text = metrics.elidedText(texts[-1], Qt.TextElideMode.ElideRight, width)
        if len(text) <= _LEAST:
            return
    painter.setPen(ink)
    painter.drawText(box, where, text)
