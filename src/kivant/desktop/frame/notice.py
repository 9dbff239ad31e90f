"""A notice over the stage: what went wrong or was done, in full, until it is closed."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from kivant.desktop.kit.painted import painted
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session

_MOST_LINES = 8


class Notice(QWidget):
    """A slip of paper near the top; Esc or its button closes it."""

    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent)
        self.session = session
        self.text = QLabel()
        self.text.setFont(font("text"))
        self.text.setWordWrap(True)
        self.text.setTextFormat(Qt.TextFormat.PlainText)
        self.text.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.button = QPushButton("Close")
        self.button.clicked.connect(self.hide)
        row = QHBoxLayout(self)
        row.setContentsMargins(18, 12, 12, 12)
        row.setSpacing(16)
        row.addWidget(self.text, 1)
        row.addWidget(self.button, 0, Qt.AlignmentFlag.AlignTop)
        self.hide()

    def tell(self, message: str, most_lines: int = _MOST_LINES) -> None:
        """Show a message; a very long one is cut after some lines."""
        lines = message.splitlines()
        if len(lines) > most_lines:
            lines = [*lines[:most_lines], f"… and {len(lines) - most_lines} more lines"]
        self.text.setText("\n".join(line[:400] for line in lines))
        self.setAccessibleName(message[:400])
        self.show()
        self.place()
        self.raise_()

    def place(self) -> None:
        """Take the middle of the window's width, below its head."""
        parent = self.parentWidget()
        if parent is None or not self.isVisible():
            return
        width = min(760, parent.width() - 60)
        inner = width - 18 - 12 - 16 - self.button.sizeHint().width()
        height = max(self.text.heightForWidth(inner), self.button.sizeHint().height()) + 26
        self.setGeometry((parent.width() - width) // 2, 66, width, height)

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        theme = self.session.theme
        painter.setPen(theme.pen(theme.color("accent"), 1.5))
        painter.setBrush(theme.color("sheet"))
        painter.drawRoundedRect(self.rect().adjusted(1, 1, -2, -2), 7, 7)
