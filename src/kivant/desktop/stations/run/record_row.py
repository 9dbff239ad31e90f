"""Recording by hand: a switch, how far the recording is, and how near to the hand its path is to stay."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from kivant.core import quantity
from kivant.core.errors import Fault, KivantError
from kivant.core.machine import Routine
from kivant.core.program.editing import add_routine
from kivant.desktop.kit import figures
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.widgets.value_field import ValueField

_USUAL = 0.1  # axis units


class RecordRow(QWidget):
    """What is moved by hand while the switch is on becomes a routine when it is put off."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session, self.recorder = session, session.bench.recorder
        self.tolerance = _USUAL
        self.switch = QPushButton("record by hand")
        self.switch.setProperty("kind", "plain")
        self.switch.setCheckable(True)
        self.switch.setToolTip(
            "Record where the axes are moved by hand. Press again to make a routine of it,\n"
            "with the pauses and the speeds of your hand."
        )
        self.switch.clicked.connect(self.toggle)
        self.told = QLabel("")
        self.told.setFont(font("small"))
        self.within = ValueField(session, "How far the path may be from where the axes went, in their units",
                                 lambda: figures.plain(self.tolerance), self._take, "text")  # fmt: skip
        self.within.setFixedWidth(52)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        row.addWidget(self.told)
        row.addWidget(self.within)
        row.addStretch(1)
        row.addWidget(self.switch)
        self.recorder.changed.connect(self.refresh)
        for signal in (session.run_changed, session.run_turned, session.machine_changed):
            signal.connect(self.refresh)
        self.refresh()

    def toggle(self) -> None:
        """Begin to record, or end it and make a routine."""
        if self.recorder.on:
            self._keep(self.recorder.end(self.tolerance))
        else:
            self.recorder.begin()
        self.refresh()

    def _keep(self, routine: Routine | None) -> None:
        if routine is None:
            self.session.noticed.emit("Nothing was recorded. Record again, and move axes by hand.")
        elif self.session.try_edit(add_routine(routine), "record by hand"):
            name = self.session.document.machine.routines[-1].name
            self.session.choice.choose_routine(name)
            self.session.noticed.emit(f"Added as the routine “{name}”. Ctrl+Z undoes this.")

    def refresh(self) -> None:
        """Show how far the recording is."""
        on = self.recorder.on
        self.switch.setChecked(on)
        self.switch.setText("end recording" if on else "record by hand")
        self.switch.setEnabled(not self.session.running.active and self.session.choice.axis is not None)
        self.told.setText(f"{self.recorder.seconds:.1f} s, to within" if on else "")
        self.within.setVisible(on)
        self.within.refresh()

    def _take(self, text: str, _merge: bool) -> None:
        wished = float(quantity.tolerance().parse(text))
        if not 1e-6 <= wished <= 1e6:
            raise KivantError(Fault("tolerance", "A tolerance is 0.000001 to 1000000.", "Type one, such as 0.1."))
        self.tolerance = wished
