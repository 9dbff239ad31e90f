"""Two ways to find windings without a meter, each as a picture with a sentence."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPainterPath
from PySide6.QtWidgets import QWidget

from kivant.desktop.kit.painted import painted
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session

WAYS = (
    "Join two wires and turn the shaft with your fingers. If it turns harder, they belong to one coil.",
    "Connect a battery and a small lamp between two wires. Where the lamp lights, they are connected.",
)
_PICTURE = 86.0


class BenchWays(QWidget):
    """Both ways, below each other."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setMinimumHeight(132)
        self.setAccessibleName(" ".join(WAYS))
        session.theme_changed.connect(self.update)

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        theme = self.session.theme
        tall = self.height() / 2
        for k, (words, picture) in enumerate(zip(WAYS, (self._shaft, self._lamp), strict=True)):
            painter.setPen(theme.pen(theme.color("muted"), 1.6))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            picture(painter, QPointF(38, tall * (k + 0.5)))
            painter.setFont(font("small"))
            painter.setPen(theme.color("ink"))
            box = QRectF(_PICTURE, tall * k, self.width() - _PICTURE, tall)
            painter.drawText(box, int(Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignVCenter), words)

    def _shaft(self, painter: QPainter, at: QPointF) -> None:
        """A motor from the side, its shaft turned by hand, two of its wires joined."""
        theme = self.session.theme
        painter.drawRoundedRect(QRectF(at.x() - 16, at.y() - 14, 28, 28), 4, 4)
        painter.drawLine(at + QPointF(12, 0), at + QPointF(26, 0))
        painter.drawArc(QRectF(at.x() + 19, at.y() - 13, 12, 26), -70 * 16, 140 * 16)
        for y in (-5, 5):
            path = QPainterPath(at + QPointF(-16, y))
            path.cubicTo(at + QPointF(-26, y), at + QPointF(-26, 0), at + QPointF(-33, 0))
            painter.drawPath(path)
        painter.setBrush(theme.color("accent"))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.drawEllipse(at + QPointF(-33, 0), 3.5, 3.5)

    def _lamp(self, painter: QPainter, at: QPointF) -> None:
        """A loop of a cell, a lamp and two loose ends."""
        theme = self.session.theme
        painter.drawLine(at + QPointF(-32, 12), at + QPointF(-32, -12))
        painter.drawLine(at + QPointF(-32, -12), at + QPointF(-9, -12))
        painter.drawLine(at + QPointF(-32, 12), at + QPointF(-18, 12))
        painter.drawLine(at + QPointF(9, -12), at + QPointF(28, -12))
        painter.drawLine(at + QPointF(-4, 12), at + QPointF(28, 12))
        painter.drawLine(at + QPointF(-18, 4), at + QPointF(-18, 20))
        painter.setPen(theme.pen(theme.color("muted"), 3))
        painter.drawLine(at + QPointF(-4, 7), at + QPointF(-4, 17))
        painter.setPen(theme.pen(theme.color("warn"), 1.8))
        lamp = at + QPointF(0, -12)
        painter.drawEllipse(lamp, 9, 9)
        for way in (1, -1):
            painter.drawLine(lamp + QPointF(-6, -6 * way), lamp + QPointF(6, 6 * way))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.color("accent"))
        for y in (-12, 12):
            painter.drawEllipse(at + QPointF(30, y), 3.0, 3.0)
