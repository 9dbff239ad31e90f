"""A sheet of paper over the right of the stage, for what is looked at now and then."""

from __future__ import annotations

from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from kivant.desktop.kit.painted import painted
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session


class Sheet(QWidget):
    """Opened and closed by `toggle`, closed by Esc."""

    def __init__(self, parent: QWidget, session: Session, name: str, widest: int = 460) -> None:
        super().__init__(parent)
        self.session, self._over, self._widest = session, parent, widest
        self.setAccessibleName(name)
        self.hide()

    def headed(self, text: str) -> QVBoxLayout:
        """Return the sheet's column, in which a title and a button that closes the sheet stand on top."""
        title, self.close_button = QLabel(text), QPushButton("Close")
        title.setFont(font("title"))
        self.close_button.clicked.connect(self.hide)
        row = QHBoxLayout()
        row.addWidget(title, 1)
        row.addWidget(self.close_button)
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 14, 14, 14)
        column.addLayout(row)
        return column

    def follow(self) -> None:
        """Show what there is now."""
        raise NotImplementedError

    def wanted_height(self) -> int:
        """Return how much room the sheet would fill."""
        raise NotImplementedError

    def toggle(self) -> None:
        """Open or close the sheet; no two are open at a time."""
        if self.isVisible():
            self.hide()
            return
        for other in self._over.findChildren(Sheet):
            other.hide()
        self.follow()
        self.show()
        self.place()
        self.raise_()

    def changed(self) -> None:
        """Follow a change, if the sheet is open."""
        if self.isVisible():
            self.follow()
            self.place()

    def place(self) -> None:
        """Take the right of the stage."""
        width = min(self._widest, self._over.width() - 240)
        height = min(self.wanted_height(), self._over.height() - 150)
        self.setGeometry(self._over.width() - width - 10, 70, width, height)

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.setPen(self.session.theme.pen(self.session.theme.color("edge"), 1.5))
        painter.setBrush(self.session.theme.color("paper"))
        painter.drawRoundedRect(self.rect().adjusted(1, 1, -2, -2), 8, 8)
