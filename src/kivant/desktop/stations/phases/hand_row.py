"""Single rows by hand: hold, one on, one back, let go; and which way the rotor went."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent, QKeySequence, QShortcut
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QSpinBox, QVBoxLayout, QWidget

from kivant.app.running.by_row import ByRow
from kivant.core.drive.drivers import driver_kind
from kivant.core.machine import Axis
from kivant.core.travel.conversion import steps_per_full_step
from kivant.core.travel.sense import rotor_sense
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session

WAYS = ((1, "forward"), (-1, "backward"), (0, "not at all"))


def cycle(axis: Axis) -> int:
    """Return how many rows a cycle has; microsteps of an electrical turn, where the driver makes the currents."""
    table = driver_kind(axis.driver).rows(axis.driver)
    return len(table) if table else 4 * int(steps_per_full_step(axis))


class OncePress(QPushButton):
    """A button that a held key presses once only."""

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not event.isAutoRepeat():
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if not event.isAutoRepeat():
            super().keyReleaseEvent(event)


class HandRow(QWidget):
    """Buttons over `Running.hold_row`; ``noted`` tells step, direction of the press, and the way that was seen."""

    noted = Signal(int, int, int)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._pressed: tuple[int, int] | None = None  # the latest press: step, and direction
        self._target = 0  # the row that all presses so far lead to
        self.row = QSpinBox()
        self.row.setFixedWidth(58)
        self.row.setToolTip("The row to energise first.")
        self.row.setAccessibleName("Row to hold")
        self.hold = self._button("hold", "Energise this row on the board, and hold it.", self._hold)
        self.back = self._button("− 1", "One row back (key −).", lambda: self._step(-1))
        self.on = self._button("+ 1", "One row forward (key +).", lambda: self._step(1))
        self.release = self._button("release", "Switch off the power.", session.bench.stop)
        self.told = QLabel()
        self.told.setFont(font("small"))
        self.told.setTextFormat(Qt.TextFormat.PlainText)
        self.told.setWordWrap(True)
        self.told.setMinimumHeight(34)
        self.ways = {
            way: self._button(text, f"It went {text}.", lambda _checked=False, w=way: self._note(w))
            for way, text in WAYS
        }
        orders, ways = QHBoxLayout(), QHBoxLayout()
        for row, widgets in (
            (orders, (QLabel("row"), self.row, self.hold, self.back, self.on, self.release)),
            (ways, tuple(self.ways.values())),
        ):
            row.setSpacing(4)
            for widget in widgets:
                row.addWidget(widget)
            row.addStretch(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(3)
        column.addLayout(orders)
        column.addWidget(self.told)
        column.addLayout(ways)
        for key, way in (("+", 1), ("-", -1)):
            shortcut = QShortcut(QKeySequence(key), self)
            shortcut.setAutoRepeat(False)
            shortcut.activated.connect(lambda w=way: self._step(w))
        session.run_changed.connect(self.refresh)

    def _button(self, text: str, tip: str, act: object) -> QPushButton:
        button = OncePress(text)
        button.setStyleSheet("padding: 3px 8px")
        button.setToolTip(tip)
        button.setAccessibleName(tip.rstrip("."))
        button.clicked.connect(act)
        return button

    @property
    def held(self) -> ByRow | None:
        """The run that holds a row, None where none does."""
        run = self.session.running.streamer
        return run if isinstance(run, ByRow) and self.session.running.active else None

    def _hold(self) -> None:
        self._pressed = None
        self.session.running.hold_row(self.row.value())
        self.refresh()

    def _step(self, direction: int) -> None:
        run, axis = self.held, self.session.choice.axis
        if run is None or axis is None:
            return
        before = self._target
        if run.step(direction):
            # The step between two rows has the number of the lower one.
            self._pressed = (before if direction > 0 else before - 1) % cycle(axis), direction
            self._target = (before + direction) % cycle(axis)
        self.refresh()

    def _note(self, way: int) -> None:
        if self._pressed is not None:
            self.noted.emit(*self._pressed, way)

    def refresh(self) -> None:
        """Show what can be done now, and which row is in force."""
        axis, run = self.session.choice.axis, self.held
        if axis is None:
            return
        free = not self.session.running.active
        self.row.setRange(0, cycle(axis) - 1)
        self.row.setEnabled(free)
        self.hold.setEnabled(free)
        # As it was looked at: what the board has said since belongs to the next look.
        status = self.session.running.status
        holding = run is not None and status is not None and status.phase == "holding"
        for button in (self.back, self.on):
            button.setEnabled(holding)
        self.release.setEnabled(run is not None)
        if free or not holding:
            self._target = self.row.value()
        now = rotor_sense(axis) * self.session.instant.steps_moved % cycle(axis) if run else None
        asks = self._pressed is not None
        for button in self.ways.values():
            button.setEnabled(asks)
        if now is None:
            self.told.setText("Hold a row, then go on by single rows and note which way the rotor went.")
        elif not holding:
            self.told.setText("Connecting to the board …")
        else:
            asked = " Which way did it go?" if asks else ""
            self.told.setText(f"Row {now} is on.{asked}")
