"""The shelf of motors: those of usual sizes, and one's own; one is taken, or the motor that is there is kept."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QHBoxLayout, QLabel, QMenu, QPushButton, QWidget

from kivant.app.shelf import keep, kept
from kivant.core.errors import KivantError
from kivant.core.machine import Motor
from kivant.core.machine.drives import use_motor
from kivant.core.motor.generic import generic_motors
from kivant.desktop.kit.literal import unaccelerated
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.files.part_file import MOTOR_FILE


class ShelfRow(QWidget):
    """The heading of the plate, with what can be done with the whole of it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        heading = QLabel("Motor")
        heading.setFont(font("heading"))
        self.other = self._button("another …", "Take a motor from the shelf: a usual size, or one that you kept.")
        menu = QMenu(self)
        menu.aboutToShow.connect(self._fill)
        self.other.setMenu(menu)
        self.keep = self._button("keep", "Put this motor on your shelf, for other machines.")
        self.keep.clicked.connect(self._keep)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(2)
        row.addWidget(heading)
        row.addStretch(1)
        row.addWidget(self.other)
        row.addWidget(self.keep)

    def _button(self, text: str, tip: str) -> QPushButton:
        button = QPushButton(text)
        button.setProperty("kind", "plain")
        button.setToolTip(tip)
        return button

    def _fill(self) -> None:
        menu = self.other.menu()
        menu.clear()
        for name, path in kept(MOTOR_FILE).items():
            action = menu.addAction(unaccelerated(name))
            action.triggered.connect(lambda _checked=False, p=path: self.take_kept(p))
        if menu.actions():
            menu.addSeparator()
        for motor in generic_motors():
            action = menu.addAction(f"{motor.label}, {motor.holding_torque_nm:g} Nm, {motor.current_a:g} A")
            action.triggered.connect(lambda _checked=False, m=motor: self.take(m))

    def take(self, motor: Motor) -> None:
        """Put a motor in the place of the chosen axis's."""
        axis = self.session.choice.axis
        if axis is not None:
            self.session.try_edit(use_motor(self.session.choice.index, motor), f"motor of {axis.name}")

    def take_kept(self, path: Path) -> None:
        """Put a motor that was kept in the place of the chosen axis's."""
        try:
            self.take(MOTOR_FILE.load(path))
        except KivantError as error:
            self.session.notice(f"{path.name} cannot be used.\n{error}")

    def _keep(self) -> None:
        axis = self.session.choice.axis
        if axis is None:
            return
        try:
            path = keep(MOTOR_FILE, axis.motor, axis.motor.label)
        except KivantError as error:
            self.session.notice(str(error))
            return
        self.session.notice(f"Kept as “{path.stem}”, in {path.parent}.")

    def refresh(self) -> None:
        """Offer what can be done now."""
        self.other.setEnabled(not self.session.running.active)
