"""The Phases station: rotor and stator, the sequence or the pulses, and the lines around the playhead."""

from __future__ import annotations

import math

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QAbstractButton, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from kivant.app import editing
from kivant.core.errors import KivantError
from kivant.core.machine import Axis, CoilDriver
from kivant.core.phases import WORDS, rows
from kivant.core.travel import steps_per_unit
from kivant.desktop import figures
from kivant.desktop.pulse_timing import PulseTiming
from kivant.desktop.rotor_view import RotorView
from kivant.desktop.sequence_ring import SequenceRing
from kivant.desktop.session import Session
from kivant.desktop.strip import LineStrip
from kivant.desktop.theme import font

_MICROSTEPS = (1, 2, 4, 8, 16, 32)


Lines = list[tuple[str, str, float]]
"""What, how much, and which share of the most."""


class Alternative(QAbstractButton):
    """One way to switch the coils, with what it means for resolution, torque and current."""

    def __init__(self, session: Session, name: str, note: str, lines: Lines, chosen: bool) -> None:
        super().__init__()
        self.session, self.name, self.note, self.lines = session, name, note, lines
        self.setCheckable(True)
        self.setChecked(chosen)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFixedHeight(30 + 19 * len(lines))
        self.setMinimumWidth(200)
        said = ", ".join([note, *(f"{what} {text}" for what, text, _share in lines)]).strip(", ")
        self.setAccessibleName(f"{name}: {said}")
        self.setToolTip(f"{name}: {said}")

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, chosen = self.session.theme, self.isChecked()
        painter.setPen(theme.pen(theme.color("accent" if chosen or self.hasFocus() else "edge"), 2 if chosen else 1))
        painter.setBrush(theme.color("sheet"))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 7, 7)
        painter.setPen(theme.color("ink" if self.isEnabled() else "muted"))
        painter.setFont(font("heading"))
        painter.drawText(QRectF(12, 3, self.width() - 24, 22), Qt.AlignmentFlag.AlignVCenter, self.name)
        painter.setFont(font("small"))
        painter.setPen(theme.color("accent" if chosen else "muted"))
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        said = ", ".join(part for part in (self.note, "in force" if chosen else "") if part)
        painter.drawText(QRectF(12, 3, self.width() - 24, 22), right, said)
        painter.setFont(font("small"))
        for k, (what, text, share) in enumerate(self.lines):
            y = 25.0 + 19 * k
            painter.setPen(theme.color("muted"))
            painter.drawText(QRectF(12, y, 90, 18), Qt.AlignmentFlag.AlignVCenter, what)
            bar = QRectF(94, y + 7, max(self.width() - 200.0, 20.0), 4)
            painter.fillRect(bar, theme.color("edge"))
            bar.setWidth(bar.width() * min(share, 1.0))
            painter.fillRect(bar, theme.color("accent" if chosen else "muted"))
            painter.setPen(theme.color("ink"))
            right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            painter.drawText(QRectF(self.width() - 104, y, 92, 18), right, text)


class PhasesStation(QWidget):
    """How the selected axis's coils are switched."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.heading = QLabel()
        self.heading.setFont(font("title"))
        self.heading.setTextFormat(Qt.TextFormat.PlainText)
        self.sentence = QLabel()
        self.rotor = RotorView(session)
        self.ring = SequenceRing(session)
        self.pulses = PulseTiming(session)
        self.strip = LineStrip(session)
        self.strip.setMinimumHeight(150)
        self.choices: list[Alternative] = []
        self._side = QVBoxLayout()
        self._side.setSpacing(7)
        self._lay_out()
        for signal in (session.machine_changed, session.selection_changed, session.run_changed, session.theme_changed):
            signal.connect(self.refresh)
        for signal in (session.playhead_moved, session.plan_changed):
            signal.connect(self._tell)
        self.refresh()

    def _lay_out(self) -> None:
        side = QWidget()
        side.setFixedWidth(272)
        side.setLayout(self._side)
        self._side.setContentsMargins(0, 0, 0, 0)
        body = QHBoxLayout()
        body.setSpacing(18)
        body.addWidget(self.rotor, 10)
        body.addWidget(self.ring, 11)
        body.addWidget(self.pulses, 9)
        body.addWidget(side)
        column = QVBoxLayout(self)
        column.setContentsMargins(26, 14, 24, 10)
        column.setSpacing(4)
        column.addWidget(self.heading)
        column.addWidget(self.sentence)
        column.addLayout(body, 3)
        column.addSpacing(6)
        column.addWidget(self.strip, 1)

    def _tell(self) -> None:
        if self.isVisible():
            self.sentence.setText(self.rotor.words())

    def refresh(self) -> None:
        """Show the selected axis as it is now; out of sight, that can wait."""
        axis = self.session.axis
        if axis is None:
            return
        if not self.isVisible() and self.choices:
            return
        coils = isinstance(axis.driver, CoilDriver)
        name = axis.name if len(axis.name) <= 36 else f"{axis.name[:35]}…"
        self.heading.setText(f"{name}: coil by coil" if coils else f"{name}: pulse by pulse")
        self.sentence.setText(self.rotor.words())
        self.ring.setVisible(coils)
        self.pulses.setVisible(not coils)
        self.pulses.refresh()
        self._rebuild(axis)

    def showEvent(self, event: object) -> None:
        self.refresh()

    def _rebuild(self, axis: Axis) -> None:
        alternatives = sequence_choices if isinstance(axis.driver, CoilDriver) else microstep_choices
        wanted = alternatives(axis, self.session.selected)
        for choice in self.choices:
            choice.hide()
            choice.deleteLater()
        while self._side.takeAt(0) is not None:
            pass
        self.choices = []
        for name, note, lines, chosen, edit in wanted:
            button = Alternative(self.session, name, note, lines, chosen)
            button.setEnabled(not self.session.running)
            button.clicked.connect(lambda _c=False, e=edit, n=name: self._choose(e, n))
            self._side.addWidget(button)
            self.choices.append(button)
        self._side.addStretch(1)

    def _choose(self, edit: editing.Edit, name: str) -> None:
        axis = self.session.axis
        try:
            self.session.edit(edit, f"{name} for {axis.name}" if axis else name)
        except KivantError as error:
            self.session.noticed.emit(str(error))
        self.refresh()


Wanted = list[tuple[str, str, Lines, bool, editing.Edit]]
"""For each alternative: its name, a note beside it, its lines, whether it is in force, and its edit."""


def sequence_choices(axis: Axis, index: int) -> Wanted:
    """Return for each sequence what it means: steps, torque range, mean current, smallest move."""
    driver = axis.driver
    assert isinstance(driver, CoilDriver)
    index_steps = {"wave": 1, "full": 1, "half": 2}
    now = index_steps[driver.sequence]
    found: Wanted = []
    for name in WORDS:
        table = rows(name)
        low, high = min(r.torque for r in table), max(r.torque for r in table)
        mean_coils = sum(r.coils_on for r in table) / len(table)
        smallest = float(now / steps_per_unit(axis) / index_steps[name])
        torque = f"{low:.2f}" if math.isclose(low, high) else f"{low:.2f}–{high:.2f}"
        current = f"{mean_coils * axis.motor.current_a:.3g} A" if axis.motor.current_a else f"{mean_coils:g} coils"
        lines = [
            ("torque", torque, (low + high) / 2 / 1.4143),
            ("current", current, mean_coils / 2),
            ("smallest move", f"{figures.short(smallest)} {axis.unit}", index_steps[name] / 2),
        ]
        found.append((name, "", lines, name == driver.sequence, editing.sequence(index, name)))
    return found


def microstep_choices(axis: Axis, index: int) -> Wanted:
    """Return for some numbers of microsteps what they mean: smallest move, torque of one step, current.

    References
    ----------
    P. Acarnley, *Stepping Motors: A Guide to Theory and Practice*, 4th ed., IET, 2002, ch. 6: static torque is a
    sine of the electrical angle, so one microstep of n pulls with sin(90°/n) of the holding torque.
    """
    driver = axis.driver
    assert not isinstance(driver, CoilDriver)
    numbers = sorted({*_MICROSTEPS, driver.microsteps})
    numbers = numbers if len(numbers) <= 6 else [n for n in numbers if n != 1]
    found: Wanted = []
    for number in numbers:
        per_unit = float(steps_per_unit(axis)) / driver.microsteps * number
        lines: Lines = [("one step", f"{figures.short(1 / per_unit)} {axis.unit}", 1 / number)]
        # What one step pulls with, as a share of the holding torque: the sine of its electrical angle.
        torque = math.sin(math.radians(90 / number))
        note = f"torque {torque:.2g}" + (f", {driver.current_a:g} A" if driver.current_a else "")
        name = f"{number} microsteps" if number > 1 else "full steps"
        found.append((name, note, lines, number == driver.microsteps, editing.microsteps(index, str(number))))
    return found
