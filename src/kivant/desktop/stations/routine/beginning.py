"""Where the axes are when a routine begins: typed as a line, or taken from where they stand now."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal

from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from kivant.core.machine.parts import start_of
from kivant.core.path import Path
from kivant.core.program.editing import begin_at
from kivant.core.program.reading import BEGINNING, read_positions
from kivant.desktop.kit.literal import literal
from kivant.desktop.kit.theme import font
from kivant.desktop.kit.words import places_words
from kivant.desktop.kit.wrong import mark_wrong
from kivant.desktop.stations.routine.program import Program
from kivant.desktop.widgets.value_field import ValueField

_NAME = "where the routine begins"


class Beginning(QWidget):
    """The positions before the first block."""

    def __init__(self, program: Program) -> None:
        super().__init__()
        self.program, self.session = program, program.session
        label = QLabel("begins with")
        label.setFont(font("small"))
        self.positions = ValueField(self.session, "Where the routine begins", self._shown, self._take, "text")
        self.positions.setPlaceholderText("every axis at 0")
        self.positions.setToolTip(f"Positions before the first block, such as {BEGINNING}. Axes not named are at 0.")
        self.here = QPushButton("where axes stand")
        self.here.setProperty("kind", "plain")
        self.here.clicked.connect(lambda: self.begin_here())
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        row.addWidget(label)
        row.addWidget(self.positions, 1)
        row.addWidget(self.here)

    def _standing(self) -> Mapping[str, Decimal]:
        standing = self.session.running.standing.of(self.session.document.machine)
        return {name: value for name, value in standing.items() if value}

    def _words(self, positions: Mapping[str, Decimal]) -> str:
        return places_words(self.session.document.machine, positions)

    def _shown(self) -> str:
        routine = self.program.routine
        return self._words(start_of(routine)) if routine is not None else ""

    def _take(self, text: str, merge: bool) -> None:
        if self.program.index is not None:
            positions = read_positions(self.session.document.machine, text)
            self.session.edit(begin_at(self.program.index, positions), _NAME, merge=merge)

    def begin_here(self) -> bool:
        """Let the routine begin where the axes stand now."""
        index = self.program.index
        return index is not None and self.program.edit(begin_at(index, self._standing()), _NAME)

    def tell_plan(self) -> None:
        """Mark the positions if there is no plan from there; what is being typed says so by itself."""
        error, own = self.session.planning.error, ("routines", self.program.index or 0, "start")
        places = [fault.place for fault in error.faults] if error is not None else []
        if not self.positions.isModified():
            mark_wrong(
                self.positions,
                wrong=any(isinstance(place, Path) and place.below(*own) is not None for place in places),
            )

    def refresh(self) -> None:
        """Show what there is now."""
        routine, session = self.program.routine, self.session
        self.setVisible(routine is not None)
        if routine is None:
            return
        self.positions.refresh()
        free, standing = not session.running.active, self._standing()
        self.positions.setEnabled(free)
        begins = {name: value for name, value in start_of(routine).items() if value}
        self.here.setVisible(bool(session.running.standing.places) and standing != begins)
        self.here.setEnabled(free)
        self.here.setToolTip(literal(f"Let it begin with {self._words(standing) or 'every axis at 0'}."))
