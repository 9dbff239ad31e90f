"""The heading of a station: the chosen axis and what is to be seen of it."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel

from kivant.desktop.kit.figures import shortened
from kivant.desktop.kit.literal import literal
from kivant.desktop.kit.theme import font


class Heading(QLabel):
    """A title in plain text."""

    def __init__(self) -> None:
        super().__init__()
        self.setFont(font("title"))
        self.setTextFormat(Qt.TextFormat.PlainText)

    def tell(self, name: str, words: str) -> None:
        """Show whose station it is, and what it is about."""
        self.setText(f"{shortened(name)}: {words}")
        self.setToolTip(literal(name) if name != shortened(name) else "")
