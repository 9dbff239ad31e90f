"""The Board face: the board's terminals and who uses them, its figures, and the shelf of boards kept."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QMenu, QPushButton, QScrollArea, QVBoxLayout

from kivant.app.shelf import keep, kept
from kivant.core.errors import KivantError
from kivant.core.machine import Axis
from kivant.core.machine.edits import Edit
from kivant.core.machine.lines import add_line, type_board, use_board
from kivant.desktop.kit import figures
from kivant.desktop.kit.literal import unaccelerated
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.stations.phases.board_picture import BoardPicture, board_words
from kivant.desktop.stations.phases.face import Face
from kivant.desktop.widgets.value_field import ValueField
from kivant.files.part_file import BOARD_FILE


class BoardFace(Face):
    """One picture of the board."""

    beside_rotor = with_lines = False

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.picture = BoardPicture(session)
        self.picture.changed_mark.connect(self._refresh_buttons)
        self.told = QLabel()
        self.told.setWordWrap(True)
        self.told.setTextFormat(Qt.TextFormat.PlainText)
        self.fields = {
            "name": self._field("name", "Name of the board", ""),
            "tick_hz": self._field("tick_hz", "Resolution of its clock", " Hz"),
            "max_pulse_hz": self._field("max_pulse_hz", "Fastest steps on one axis", " Hz"),
        }
        self.more = self._button("+ line", "Add a line.", lambda: self._edit(add_line("lines"), "new line"))
        self.inputs = self._button("+ input", "Add an input.", lambda: self._edit(add_line("inputs"), "new input"))
        self.rename = self._button("rename", "Rename the marked line (F2).", self.picture.rename)
        self.remove = self._button("remove", "Remove the marked line (Del).", self.picture.remove)
        self.keep = self._button("Keep this board", "Put it on your shelf, for other machines.", self._keep)
        self.other = QPushButton("Other board")
        self.other.setToolTip("Take a board from your shelf: lines of the same names stay wired.")
        self.shelf = QMenu(self)
        self.shelf.aboutToShow.connect(self._fill)
        self.other.setMenu(self.shelf)
        self._lay_out()

    def _button(self, text: str, tip: str, act: object) -> QPushButton:
        button = QPushButton(text)
        button.setProperty("kind", "plain" if text[0] in "+r" else "")
        button.setToolTip(tip)
        button.clicked.connect(act)
        return button

    def _field(self, key: str, name: str, unit: str) -> ValueField:
        def show() -> str:
            value = getattr(self.session.document.machine.board, key)
            return value if isinstance(value, str) else f"{figures.plain(value)}{unit}"

        def take(text: str, merge: bool) -> None:
            self.session.edit(type_board(key, text), name.lower(), merge=merge)

        return ValueField(self.session, name, show, take)

    def _lay_out(self) -> None:
        figures_row = QHBoxLayout()
        figures_row.setSpacing(8)
        shown = (("name", "board", 220), ("tick_hz", "clock", 110), ("max_pulse_hz", "steps at most", 110))
        for key, text, width in shown:
            label = QLabel(text)
            label.setFont(font("small"))
            figures_row.addWidget(label)
            self.fields[key].setFixedWidth(width)
            figures_row.addWidget(self.fields[key])
        figures_row.addStretch(1)
        buttons = QHBoxLayout()
        for button in (self.more, self.inputs, self.rename, self.remove):
            buttons.addWidget(button)
        buttons.addStretch(1)
        buttons.addWidget(self.keep)
        buttons.addWidget(self.other)
        self.area = QScrollArea()
        self.area.setFrameShape(QScrollArea.Shape.NoFrame)
        self.area.setWidgetResizable(True)
        self.area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.area.setWidget(self.picture)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addLayout(figures_row)
        column.addWidget(self.told)
        column.addWidget(self.area, 1)
        column.addLayout(buttons)

    def _edit(self, edit: Edit, name: str) -> None:
        self.session.try_edit(edit, name)

    def _keep(self) -> None:
        try:
            board = self.session.document.machine.board
            path = keep(BOARD_FILE, board, board.name)
        except KivantError as error:
            self.session.notice(str(error))
            return
        self.session.notice(f"Kept as “{path.stem}”, in {path.parent}.")

    def _fill(self) -> None:
        self.shelf.clear()
        for name, path in kept(BOARD_FILE).items():
            action = self.shelf.addAction(unaccelerated(name))
            action.triggered.connect(lambda _checked=False, p=path: self.take(p))
        if self.shelf.isEmpty():
            self.shelf.addAction("The shelf is empty.").setEnabled(False)

    def take(self, path: Path) -> None:
        """Put a board of the shelf in the place of the machine's."""
        try:
            board = BOARD_FILE.load(path)
        except KivantError as error:
            self.session.notice(str(error))
            return
        self._edit(use_board(board), f"board “{board.name}”")

    def follow(self, axis: Axis) -> None:
        """Show the board as it is now."""
        for field in self.fields.values():
            field.refresh()
        self.told.setText(board_words(self.session))
        self.picture.update()
        self._refresh_buttons()

    def _refresh_buttons(self) -> None:
        free = not self.session.running.active
        for button in (self.more, self.inputs, self.other):
            button.setEnabled(free)
        for button in (self.rename, self.remove):
            button.setEnabled(free and self.picture.marked is not None)
