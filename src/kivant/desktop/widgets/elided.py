"""A line of text that ends in an ellipsis where there is no room for all of it."""

from __future__ import annotations

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QSizePolicy, QWidget

from kivant.desktop.kit.literal import literal
from kivant.desktop.kit.painted import painted
from kivant.desktop.kit.theme import Role, Token, font
from kivant.desktop.state.session import Session


class ElidedText(QWidget):
    """Text in the letters of a role and the colour of a token."""

    def __init__(self, session: Session, role: Role, token: Token) -> None:
        super().__init__()
        self.session, self.role, self.token, self.text = session, role, token, ""
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.setFont(font(role))
        self.setFixedHeight(self.fontMetrics().height())

    def set_text(self, text: str, tip: str) -> None:
        """Show a text, with a tool tip."""
        self.text = text
        self.setAccessibleName(text)
        self.setToolTip(literal(tip))
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(100, self.height())

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.setPen(self.session.theme.color(self.token))
        painter.setFont(font(self.role))
        shown = painter.fontMetrics().elidedText(self.text, Qt.TextElideMode.ElideRight, self.width())
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignVCenter, shown)
