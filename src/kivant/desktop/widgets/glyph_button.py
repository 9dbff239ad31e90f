"""A button with a drawn sign."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPaintEvent, QPolygonF
from PySide6.QtWidgets import QPushButton

from kivant.desktop.kit.fill import fill
from kivant.desktop.kit.painted import painting
from kivant.desktop.state.session import Session


class GlyphButton(QPushButton):
    """A button with a drawn sign: play, pause, or a step on or back."""

    def __init__(self, session: Session, glyph: str, name: str) -> None:
        super().__init__()
        self.session, self.glyph = session, glyph
        self.setProperty("kind", "plain")
        self.setFixedSize(38, 38)
        self.setAccessibleName(name)
        self.setToolTip(name)

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        with painting(self) as painter:
            color = self.session.theme.color("ink" if self.isEnabled() else "muted")
            painter.setBrush(color)
            painter.setPen(self.session.theme.pen(color, 2))
            middle = QPointF(self.rect().center()) + QPointF(0.5, 0.5)
            if self.glyph == "play":
                painter.drawPolygon(QPolygonF([middle + QPointF(x, y) for x, y in ((-5, -8), (9, 0), (-5, 8))]))
            elif self.glyph == "pause":
                fill(painter, QRectF(middle.x() - 7, middle.y() - 8, 5, 16), color)
                fill(painter, QRectF(middle.x() + 2, middle.y() - 8, 5, 16), color)
            else:
                way = 1 if self.glyph == "on" else -1
                painter.setBrush(Qt.BrushStyle.NoBrush)
                points = [middle + QPointF(way * x, y) for x, y in ((-4, -7), (4, 0), (-4, 7))]
                painter.drawPolyline(QPolygonF(points))
