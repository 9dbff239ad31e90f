"""All keys on a sheet, in the order in which a maker needs them."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.stations import STATIONS
from kivant.desktop.widgets.sheet import Sheet

Keys = tuple[tuple[str, str], ...]
"""Each key and its meaning."""

_ANYWHERE: Keys = (
    ("Ctrl+R", "run on the board"),
    ("Ctrl+Shift+R", "go on after a stop"),
    ("Ctrl+B", "go to the start"),
    ("Esc", "stop, cut the power, give up"),
    ("F8", "findings"),
    ("Ctrl+Z", "undo"),
    ("Ctrl+Shift+Z", "redo"),
    ("Ctrl+L", "day or night"),
)
_PLAYHEAD: Keys = (
    ("Space", "play or pause"),
    ("Left, Right", "one step of the selected axis"),
    ("Home, End", "beginning, end"),
)
_MACHINE: Keys = (
    ("Ctrl+O", "open"),
    ("Ctrl+S", "save"),
    ("Ctrl+Shift+S", "save as"),
    ("Ctrl+Shift+E", "export the plan"),
    ("Ctrl+N", "new window"),
    ("Shift+F2", "rename"),
    ("F9", "notes"),
    ("F10", "menu"),
)
_CARD: Keys = (
    ("Up, Down", "choose another"),
    ("Ctrl+Up, Down", "move it"),
    ("F2", "rename"),
    ("Ctrl+D", "duplicate"),
    ("Del", "delete"),
)
_VALUE: Keys = (
    ("Enter", "take the value"),
    ("Esc", "go back to the old value"),
    ("Up, Down", "change the digit at the cursor"),
)


def all_keys() -> tuple[list[tuple[str, Keys]], ...]:
    """Return the columns of the sheet: what keys are for, and the keys; those of the stations from their table."""
    stations = (f"Alt+1 … {len(STATIONS)}", ", ".join(kind.title for kind in STATIONS.values()))
    own = [(f"In {kind.title}", kind.keys) for kind in STATIONS.values() if kind.keys]
    left = [("Anywhere", (stations, *_ANYWHERE)), ("Playhead", _PLAYHEAD)]
    return left, [("Machine", _MACHINE), ("On an axis card", _CARD), ("In a value", _VALUE)], own


class KeysSheet(Sheet):
    """The list of keys; F1 or Esc closes it."""

    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent, session, "Keys", widest=960)

    def _lay_out(self) -> None:
        title = QLabel("Keys")
        title.setFont(font("title"))
        close = QPushButton("Close")
        close.clicked.connect(self.hide)
        head = QHBoxLayout()
        head.addWidget(title, 1)
        head.addWidget(close)
        columns = QHBoxLayout()
        columns.setSpacing(28)
        for groups in all_keys():
            columns.addLayout(self._column(groups), 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(22, 14, 14, 18)
        column.addLayout(head)
        column.addLayout(columns)

    @staticmethod
    def _column(groups: list[tuple[str, Keys]]) -> QGridLayout:
        grid = QGridLayout()
        grid.setHorizontalSpacing(14)
        grid.setVerticalSpacing(3)
        grid.setColumnStretch(1, 1)
        row = 0
        for name, keys in groups:
            heading = QLabel(name)
            heading.setFont(font("heading"))
            grid.addWidget(heading, row, 0, 1, 2)
            grid.setRowMinimumHeight(row, 29)
            grid.setAlignment(heading, Qt.AlignmentFlag.AlignBottom)
            for key, meaning in keys:
                row += 1
                label = QLabel(key)
                label.setFont(font("strong"))
                words = QLabel(meaning)
                words.setWordWrap(True)
                grid.addWidget(label, row, 0, Qt.AlignmentFlag.AlignTop)
                grid.addWidget(words, row, 1)
            row += 1
        grid.setRowStretch(row, 1)
        return grid

    def wanted_height(self) -> int:
        """Return the height of both columns."""
        return self.sizeHint().height()

    def follow(self) -> None:
        """Lay the keys out when they are first looked at; they stay."""
        if self.layout() is None:
            self._lay_out()
