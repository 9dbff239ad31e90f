"""What the parts of the chain are drawn with."""

from __future__ import annotations

import math

from msgspec import Struct
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter

from kivant.desktop.kit.theme import Theme


class Brush(Struct, frozen=True):
    """What a part is drawn with, and around which point of the shaft line."""

    painter: QPainter
    theme: Theme
    hue: QColor
    middle: QPointF

    def ink(self, width: float = 1.4) -> None:
        """Draw outlines in ink on the sheet."""
        self.painter.setPen(self.theme.pen(self.theme.color("ink"), width))
        self.painter.setBrush(self.theme.color("sheet"))

    def mark(self, center: QPointF, radius: float, turns: float) -> None:
        """Draw the sign of the axis that shows how far a part has turned."""
        angle, dot = 2 * math.pi * (turns % 1.0), min(max(radius * 0.16, 1.6), 3.2)
        self.painter.setPen(Qt.PenStyle.NoPen)
        self.painter.setBrush(self.hue)
        self.painter.drawEllipse(center + QPointF(math.sin(angle), -math.cos(angle)) * radius, dot, dot)
