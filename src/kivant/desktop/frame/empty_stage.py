"""The stage of a machine without axes: what to do first."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from kivant.app.document.document import Document
from kivant.app.document.examples import load_example
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session


class EmptyStage(QWidget):
    """What to do while the machine has no axes."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        text = QLabel("This machine has no axes yet.")
        text.setFont(font("title"))
        hint = QLabel("Add one, open a machine of yours, or have a look at the one that comes with Kivant.")
        self.add = QPushButton("Add an axis")
        self.open = QPushButton("Open a machine")
        self.demo = QPushButton("Open the Banding rig")
        self.demo.setProperty("kind", "main")
        self.demo.clicked.connect(lambda: session.bench.open(Document(load_example())))
        row = QHBoxLayout()
        row.addStretch(1)
        for button in (self.add, self.open, self.demo):
            row.addWidget(button)
        row.addStretch(1)
        column = QVBoxLayout(self)
        column.setSpacing(14)
        column.addStretch(2)
        for label in (text, hint):
            label.setAlignment(Qt.AlignmentFlag.AlignHCenter)
            column.addWidget(label)
        column.addLayout(row)
        column.addStretch(3)
