"""The names of the faces, one of them lit."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QWidget

from kivant.desktop.kit.theme import font


class FaceStrip(QWidget):
    """A button for each face; ``chosen`` tells which was asked for."""

    chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.buttons: dict[str, QPushButton] = {}
        self._group = QButtonGroup(self)
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(0, 0, 0, 0)
        self._row.setSpacing(0)

    def offer(self, titles: dict[str, str], now: str) -> None:
        """Show a name for each key, that of `now` lit."""
        if list(titles) != list(self.buttons):
            for button in self.buttons.values():
                self._group.removeButton(button)
                button.hide()
                button.deleteLater()
            self.buttons = {key: self._button(key, title) for key, title in titles.items()}
        self.buttons[now].setChecked(True)

    def _button(self, key: str, title: str) -> QPushButton:
        button = QPushButton(title)
        button.setProperty("kind", "face")
        button.setFont(font("text"))
        button.setCheckable(True)
        button.setToolTip(f"{title} (Ctrl+Page Up and Ctrl+Page Down go through all)")
        button.clicked.connect(lambda: self.chosen.emit(key))
        self._group.addButton(button)
        self._row.addWidget(button)
        return button

    def next(self, now: str, way: int) -> None:
        """Ask for the face after or before one."""
        keys = list(self.buttons)
        self.chosen.emit(keys[(keys.index(now) + way) % len(keys)])
