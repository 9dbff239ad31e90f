"""The head of the Routine station: which routine, what it comes to, and new blocks of every kind."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QMenu, QPushButton, QVBoxLayout, QWidget

from kivant.core.motion.blocks import BLOCKS, block_kind
from kivant.core.program.holder import holder_words
from kivant.desktop.kit import figures
from kivant.desktop.kit.literal import unaccelerated
from kivant.desktop.kit.theme import Token
from kivant.desktop.state.session import Session
from kivant.desktop.stations.routine.acts import Acts
from kivant.desktop.stations.routine.program import number_of
from kivant.desktop.stations.routine.routines import Routines
from kivant.desktop.stations.routine.stretches import entry_of
from kivant.desktop.stations.routine.tempo import Tempo
from kivant.desktop.widgets.elided import ElidedText
from kivant.desktop.widgets.value_field import ValueField

_TIPS = {
    "move": "Axes go straight to positions, all starting and arriving together.",
    "each": "Axes go to positions, each as fast as it can by itself.",
    "spin": "Axes turn at speeds for a time, a number of turns or a distance.",
    "pause": "All axes rest.",
    "repeat": "Repeats the chosen blocks.",
    "call": "Runs another routine here.",
    "note": "Text for people.",
}


class RoutineHead(QWidget):
    """Title, sentence and the row of new blocks."""

    def __init__(self, session: Session, acts: Acts, routines: Routines) -> None:
        super().__init__()
        self.session, self.program, self.routines = session, acts.program, routines
        self.title = ValueField(
            session, "Name of the routine", self._name, lambda text, _merge: routines.rename(text), "title"
        )
        self.title.setMaxLength(80)
        self.title.setMinimumWidth(160)
        self.others = self._plain("all routines", "Choose, add, duplicate or delete routines.")
        self.others.setMenu(QMenu(self))
        self.others.menu().aboutToShow.connect(self._fill)
        self.sentence = ElidedText(session, "text", "muted")
        self.acts = acts
        self._lay_out()
        self.program.chosen_changed.connect(self.refresh)

    def _lay_out(self) -> None:
        first = QHBoxLayout()
        first.setSpacing(10)
        first.addWidget(self.title)
        first.addWidget(self.others)
        first.addWidget(self.sentence, 1)
        self.shape = self._plain("geometry", "How the axes move a tool: an arm, a column, two motors on a belt.")
        self.shape.setCheckable(True)
        first.addWidget(self.shape)
        second = QHBoxLayout()
        second.setSpacing(0)
        self.adding = {
            kind: self._plain(f"+ {record.title.lower()}", _TIPS.get(kind, "")) for kind, record in BLOCKS.items()
        }
        for kind, button in self.adding.items():
            button.clicked.connect(lambda _checked=False, k=kind: self.acts.add(k))
            second.addWidget(button)
        second.addStretch(1)
        done = {"duplicate": self.acts.duplicate, "switch off": self.acts.switch, "delete": self.acts.remove}
        self.acting = {text: self._plain(text, "") for text in done}
        self.tempo = Tempo(self.program)
        second.addWidget(self.tempo)
        for text, button in self.acting.items():
            button.clicked.connect(lambda _checked=False, act=done[text]: act())
            second.addWidget(button)
        self.unroll = self._plain("every turn", "Show the blocks of every turn of a repeat, and not only of the first.")
        self.unroll.setCheckable(True)
        second.addWidget(self.unroll)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addLayout(first)
        column.addLayout(second)

    def _plain(self, text: str, tip: str) -> QPushButton:
        button = QPushButton(text)
        button.setProperty("kind", "plain")
        button.setToolTip(tip)
        return button

    def _name(self) -> str:
        return self.session.choice.routine_name or "A move of your own"

    def _fill(self) -> None:
        menu, session = self.others.menu(), self.session
        menu.clear()
        for routine in session.document.machine.routines:
            action = menu.addAction(unaccelerated(routine.name))
            action.setCheckable(True)
            action.setChecked(routine.name == session.choice.routine_name)
            action.triggered.connect(lambda _checked=False, name=routine.name: session.choice.choose_routine(name))
        menu.addSeparator()
        there, free = self.program.routine is not None, not session.running.active
        for text, act, possible in (
            ("New routine", self.routines.add, free),
            ("Duplicate this routine", self.routines.duplicate, free and there),
            ("Delete this routine", self.routines.delete, free and there),
        ):
            action = menu.addAction(text)
            action.setEnabled(possible)
            action.triggered.connect(lambda _checked=False, do=act: do())

    def refresh(self) -> None:
        """Show the routine as it is now."""
        session, program = self.session, self.program
        self.title.refresh()
        self.title.setEnabled(program.routine is not None and not session.running.active)
        metrics = self.title.fontMetrics()
        self.title.setFixedWidth(min(max(metrics.horizontalAdvance(self._name()) + 16, 120), 420))
        text, token = self._words()
        self.sentence.token = token
        self.sentence.set_text(text, text)
        free = not session.running.active
        for button in self.adding.values():
            button.setEnabled(free)
        self.tempo.refresh()
        self.unroll.setVisible(any(block_kind(block).filled for block in program.blocks))
        chosen = [block for place in program.places if (block := program.block(place)) is not None]
        for button in self.acting.values():
            button.setVisible(bool(chosen))
            button.setEnabled(free)
        self.acting["switch off"].setText(
            "switch on" if chosen and all(block.off for block in chosen) else "switch off"
        )
        repeats = f"+ {BLOCKS['repeat'].title.lower()}"
        self.adding["repeat"].setText("repeat these" if len(chosen) > 1 else "repeat this" if chosen else repeats)

    def _words(self) -> tuple[str, Token]:
        session, plan = self.session, self.session.planning.plan
        if session.planning.error is not None:
            return session.planning.error.faults[0].said, "bad"
        if self.program.routine is None:
            return "Choose a routine, or make a new one: “all routines”.", "muted"
        if not self.program.blocks:
            return "Empty yet: add a block, or type one below.", "muted"
        if plan is None:
            return "Planning …", "muted"
        count, done = len(self.program.blocks), len(plan.blocks)
        blocks = f"{figures.grouped(count)} block{'s' if count != 1 else ''}"
        turns = f", {figures.grouped(done)} with all turns" if done > count else ""
        return f"{blocks}{turns}, {figures.seconds(plan.duration)}{self._held()}", "muted"

    def _held(self) -> str:
        """Return what holds the current block back, or the whole routine."""
        session, plan, held = self.session, self.session.planning.plan, self.session.holding.plan
        if plan is None or held is None:
            return ""
        place = self.program.current
        entry = entry_of(plan, self.program.blocks, place)
        one = session.holding.of(int(plan.blocks.listed.entries[entry])) if entry is not None else None
        if place is not None and one is not None and one.limit is not None:
            words, saved = holder_words(held.machine, one.axis, one.limit), figures.rough3(one.saved_s)
            return f" · {words} holds block {number_of(place)} back by {saved} s"
        most = session.holding.greatest
        if most is None:
            return ""
        words = holder_words(held.machine, most.axis, most.limit)
        return f" · {words} holds it back by {figures.rough3(most.saved_s)} s"
