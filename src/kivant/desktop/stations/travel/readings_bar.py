"""The readings of the chosen axis as a whole: taken back, pasted, loaded, begun anew; and what the stand-in drives."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QPushButton, QWidget

from kivant.app.measuring import Measuring
from kivant.core.errors import KivantError
from kivant.desktop.state.session import Session
from kivant.desktop.stations.travel.standin_menu import StandinMenu
from kivant.files.observations import observations_text


class ReadingsBar(QWidget):
    """A row of buttons; `changed` is called after each of them."""

    def __init__(self, session: Session, changed: Callable[[], None]) -> None:
        super().__init__()
        self.session, self._changed = session, changed
        self.back = self._button("Take back", "Forget the latest reading.", self._take_back)
        self.paste = self._button("Paste", "Add readings from the clipboard: position,approach,observed.", self._paste)
        self.load = self._button("Load …", "Add readings from a CSV file: position,approach,observed.", self._load)
        self.anew = self._button("Start over", "Forget all readings.", self._begin_anew)
        self.standin = StandinMenu(session, changed)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        for button in (self.back, self.paste, self.load, self.anew, self.standin):
            row.addWidget(button)
        row.addStretch(1)

    def _button(self, text: str, tip: str, act: Callable[[], None]) -> QPushButton:
        button = QPushButton(text)
        button.setToolTip(tip)
        button.setStyleSheet("padding: 3px 10px")
        button.clicked.connect(act)
        return button

    @property
    def measuring(self) -> Measuring:
        """What was read of the chosen axis."""
        return self.session.bench.measurings.now

    def _take_back(self) -> None:
        if self.measuring.read:
            self.measuring.read.pop()
        self._changed()

    def _paste(self) -> None:
        self._add(QGuiApplication.clipboard().text)

    def _load(self) -> None:
        name, _filter = QFileDialog.getOpenFileName(self, "Load readings", "", "Readings (*.csv)")
        if name:
            self._add(lambda: observations_text(Path(name)))

    def _add(self, text: Callable[[], str]) -> None:
        axis = self.session.choice.axis
        if axis is None:
            return
        try:
            self.session.notice(f"Added: {self.measuring.paste(axis, text())} readings.")
        except KivantError as error:
            self.session.notice(str(error))
        self._changed()

    def _begin_anew(self) -> None:
        self.measuring.begin_anew()
        self._changed()

    def refresh(self) -> None:
        """Offer what can be done now."""
        self.back.setEnabled(bool(self.measuring.read))
        self.standin.setVisible(not self.session.running.address)
        self.standin.setEnabled(not self.session.running.active)
