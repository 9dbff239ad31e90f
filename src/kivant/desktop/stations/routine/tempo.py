"""How long the chosen blocks take, or all of them: typed, they are stretched to it."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from kivant.core import quantity
from kivant.core.program import editing
from kivant.core.program.editing import Place
from kivant.core.program.stretching import Changes, as_fast_as_possible, stretched
from kivant.desktop.kit import figures
from kivant.desktop.kit.aside import aside
from kivant.desktop.kit.theme import font
from kivant.desktop.stations.routine.program import Program, number_of
from kivant.desktop.stations.routine.stretches import stretch_of
from kivant.desktop.widgets.value_field import ValueField

_LONG = 2000  # blocks from which on it is not looked whether any has a speed factor


class Tempo(QWidget):
    """A duration, and a way back to full speed."""

    def __init__(self, program: Program) -> None:
        super().__init__()
        self.program, self.session = program, program.session
        self.label = QLabel()
        self.label.setFont(font("small"))
        self.seconds = ValueField(self.session, "Duration", self._shown, self._take)
        self.seconds.setFixedWidth(92)
        self.seconds.setToolTip("How long this takes: type a time, and the speeds are made to fit.")
        self.fastest = QPushButton("as fast as it can")
        self.fastest.setProperty("kind", "plain")
        self.fastest.setToolTip("Remove the speed factors.")
        self.fastest.clicked.connect(lambda: self.unstretch())
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        for widget in (self.label, self.seconds, self.fastest):
            row.addWidget(widget)

    def places(self) -> list[Place]:
        """Return what is meant: the chosen blocks, or all."""
        return self.program.taken or [(row,) for row in range(len(self.program.blocks))]

    def duration(self) -> float | None:
        """Return how long that takes, s; None without a plan of it."""
        plan, found = self.session.planning.plan, 0.0
        if plan is None or plan.routine.blocks is not self.program.blocks:
            return None
        if not self.program.places:
            return plan.duration - plan.lead_in_s
        for place in self.places():
            begin, end = stretch_of(plan, self.program.blocks, place) or (0.0, 0.0)
            found += end - begin
        return found

    def _shown(self) -> str:
        found = self.duration()
        return "" if found is None else f"{figures.plain(float(f'{found:.6g}'))} s"

    def _take(self, text: str, merge: bool) -> None:
        self.stretch(text, merge=merge)

    def _words(self, chosen: list[Place]) -> str:
        if len(chosen) > 1:
            return f"{len(chosen)} blocks take"
        return f"block {number_of(chosen[0])} takes" if chosen else "all takes"

    def refresh(self) -> None:
        """Show what there is now."""
        own = self.program
        self.setVisible(bool(own.blocks))
        self.label.setText(self._words(own.taken))
        self.seconds.refresh()
        routine, free = own.routine, not self.session.running.active
        slowed = bool(routine is not None and len(own.blocks) < _LONG and as_fast_as_possible(routine, self.places()))
        self.fastest.setVisible(slowed)
        self.fastest.setEnabled(free)

    def stretch(self, text: str, *, merge: bool = False) -> None:
        """Make the chosen blocks, or all, take a time.

        Raises
        ------
        KivantError
            If the text is no time, or they cannot take it.
        """
        own, seconds = self.program, float(quantity.duration().parse(text))
        machine, routine, places = self.session.document.machine, own.routine, self.places()
        if routine is None or own.index is None:
            return

        def work() -> Changes:
            return stretched(machine, routine, places, seconds)

        changes = aside(work, keys=False)
        self.session.edit(editing.replace_blocks(own.index, changes), f"stretch to {seconds:g} s", merge=merge)

    def unstretch(self) -> bool:
        """Let the chosen blocks, or all, go as fast as they can."""
        own = self.program
        if own.routine is None or own.index is None:
            return False
        changes = as_fast_as_possible(own.routine, self.places())
        return own.edit(editing.replace_blocks(own.index, changes), "as fast as it can")
