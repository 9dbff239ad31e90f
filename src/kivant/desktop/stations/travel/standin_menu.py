"""What the stand-in's axes drive: nothing but counts, or a machine that is a little wrong, to practise on."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QMenu, QPushButton

from kivant.core.errors import KivantError
from kivant.core.travel.mechanics import WORN, Mechanics
from kivant.desktop.state.session import Session
from kivant.files.mechanics_file import load_mechanics


class StandinMenu(QPushButton):
    """A button with the choice; `chosen` is called when it was made."""

    def __init__(self, session: Session, chosen: Callable[[], None]) -> None:
        super().__init__("Stand-in")
        self.session, self._chosen = session, chosen
        self.setToolTip("What the stand-in's axes do: to practise on, without a machine.")
        self.setStyleSheet("padding: 3px 10px")
        menu = QMenu(self)
        menu.aboutToShow.connect(self._fill)
        self.setMenu(menu)

    def _fill(self) -> None:
        running, menu = self.session.running, self.menu()
        menu.clear()
        worn = {axis.name: WORN[axis.unit] for axis in self.session.choice.machine.axes}
        for text, mechanics in (("Only counts", {}), ("Drives a worn machine", worn)):
            action = menu.addAction(text)
            action.setCheckable(True)
            action.setChecked(dict(running.tools.mechanics) == mechanics)
            action.triggered.connect(lambda _checked=False, m=mechanics: self.use(m))
        menu.addAction("Drives a machine as in a file…").triggered.connect(self._ask)

    def use(self, mechanics: Mapping[str, Mechanics]) -> None:
        """Have the stand-in drive such a machine, at whose tools there are pointers; none: it only counts."""
        self.session.running.tools.put(mechanics)
        self._chosen()
        if mechanics:
            self.session.notice(
                "The stand-in now drives a machine that is a little wrong. Go there, and read its pointer."
            )

    def _ask(self) -> None:
        name, _filter = QFileDialog.getOpenFileName(self, "Open the mechanics of a machine", "", "JSON (*.json)")
        if name:
            try:
                self.use(load_mechanics(Path(name)))
            except KivantError as error:
                self.session.notice(f"{Path(name).name} cannot be used.\n{error}")
