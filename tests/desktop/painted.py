"""A watch on all texts that are painted."""

from __future__ import annotations

from unittest import mock

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter

SLACK = 1.5  # pixels: a box may be as much narrower than the letters' own side bearings


class Painted:
    """Watches all texts that are painted into a box, and notes those that do not fit."""

    def __init__(self) -> None:
        self.cut: list[str] = []
        self.texts: list[str] = []
        self._draw = QPainter.drawText

    def __enter__(self) -> Painted:
        watching, draw = self, self._draw

        def watched(painter: QPainter, *arguments) -> object:
            if len(arguments) == 3 and isinstance(arguments[0], QRectF) and isinstance(arguments[2], str):
                box, flags, text = arguments
                watching.texts.append(text)
                wrapped = (
                    bool(int(flags) & int(Qt.TextFlag.TextWordWrap.value))
                    if not isinstance(flags, Qt.AlignmentFlag)
                    else False
                )
                metrics = QFontMetricsF(painter.font())
                width = metrics.horizontalAdvance(text)
                if not wrapped and width > box.width() + SLACK:
                    watching.cut.append(f"“{text}” needs {width:.0f} of {box.width():.0f} pixels")
                # Above and below the box, letters are cut off too, where the box is lower than they are tall.
                tight, spare = metrics.tightBoundingRect(text), box.height() - metrics.height()
                places = ((Qt.AlignmentFlag.AlignVCenter, spare / 2), (Qt.AlignmentFlag.AlignBottom, spare))
                base = metrics.ascent() + sum(move for flag, move in places if int(flags) & int(flag))
                if base + tight.top() < -SLACK or base + tight.bottom() > box.height() + SLACK:
                    watching.cut.append(f"“{text}” is taller than its {box.height():.0f} pixels")
            return draw(painter, *arguments)

        self._patch = mock.patch.object(QPainter, "drawText", watched)
        self._patch.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._patch.stop()
