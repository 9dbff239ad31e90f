"""The frame of what is chosen among others by a press: a slip of paper, stronger where it is the one in use."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QAbstractButton

from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session


class Card(QAbstractButton):
    """A slip that may be the chosen one."""

    def __init__(self, session: Session, height: int, *, chosen: bool) -> None:
        super().__init__()
        self.session = session
        self.setCheckable(True)
        self.setChecked(chosen)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFixedHeight(height)

    def paint_slip(self, painter: QPainter) -> None:
        """Paint the slip, and leave the painter ready for its heading."""
        theme, chosen = self.session.theme, self.isChecked()
        painter.setPen(theme.pen(theme.color("accent" if chosen or self.hasFocus() else "edge"), 2 if chosen else 1))
        painter.setBrush(theme.color("sheet"))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 7, 7)
        painter.setPen(theme.color("ink" if self.isEnabled() else "muted"))
        painter.setFont(font("heading"))
