"""The stage of a machine without axes: what to do first."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from kivant.app.document.examples import BANDING_RIG, EXAMPLES
from kivant.desktop.kit.theme import font

_EXAMPLE_WIDTH = 210


class EmptyStage(QWidget):
    """What to do while the machine has no axes; `show_example` opens an example by its file."""

    def __init__(self, show_example: Callable[[str], object]) -> None:
        super().__init__()
        text = QLabel("This machine has no axes yet.")
        text.setFont(font("title"))
        hint = QLabel("Add one, open a machine of your own, or look at an example.")
        self.add = QPushButton("Add an axis")
        self.open = QPushButton("Open a machine")
        self.examples: dict[str, QPushButton] = {}
        row = QHBoxLayout()
        row.addStretch(1)
        for button in (self.add, self.open):
            row.addWidget(button)
        row.addStretch(1)
        column = QVBoxLayout(self)
        column.setSpacing(14)
        column.addStretch(2)
        for label in (text, hint):
            label.setAlignment(Qt.AlignmentFlag.AlignHCenter)
            column.addWidget(label)
        column.addLayout(row)
        column.addSpacing(14)
        column.addLayout(self._examples(show_example))
        column.addStretch(3)

    def _examples(self, show: Callable[[str], object]) -> QGridLayout:
        """Return a row of the examples, each with what it does below."""
        grid = QGridLayout()
        grid.setHorizontalSpacing(22)
        for place, (file, (name, does)) in enumerate(EXAMPLES.items(), 1):
            button = self.examples[file] = QPushButton(name)
            button.setProperty("kind", "main" if file == BANDING_RIG else "")
            button.setToolTip(does)
            button.clicked.connect(lambda _checked=False, own=file: show(own))
            words = QLabel(does)
            words.setFont(font("small"))
            words.setWordWrap(True)
            words.setFixedWidth(_EXAMPLE_WIDTH)
            words.setAlignment(Qt.AlignmentFlag.AlignTop)
            grid.addWidget(button, 0, place)
            grid.addWidget(words, 1, place)
        for outside in (0, len(EXAMPLES) + 1):
            grid.setColumnStretch(outside, 1)
        return grid
