"""The same move with every shape of ramp, side by side: its time, the torque it needs, and what the rotor does."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QHBoxLayout, QWidget

from kivant.app.planning.tries import Tried
from kivant.core.machine.parts import shape_of
from kivant.core.machine.ramps import choose_shape
from kivant.core.motor.spare import USUAL_MARGIN
from kivant.core.ramps.candidates import KINDS, Candidate, Kind
from kivant.desktop.kit import figures
from kivant.desktop.kit.chart import Pane, Scale
from kivant.desktop.kit.literal import literal
from kivant.desktop.kit.painted import painted
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.widgets.card import Card

TITLES: dict[Kind, str] = {
    "none": "no ramp", "even_delays": "even delays", "trapezoid": "trapezoid", "s_curve": "S-curve",
    "torque": "by torque",
}  # fmt: skip
_TOLD: dict[Kind, str] = {
    "none": "The wished speed from the first step to the last.",
    "even_delays": "A fixed amount off the delay at every step, as ramps are often written by hand: it accelerates "
    "ever harder. Shown for comparison; no axis can use it.",
    "trapezoid": "The same acceleration all the way up.",
    "s_curve": "The acceleration itself comes and goes by the jerk: no jolt.",
    "torque": "As much acceleration at each speed as the motor's torque leaves with the margin.",
}
_HEIGHT = 88


class CandidateCard(Card):
    """One kind of ramp; a press gives it to the axis."""

    def __init__(self, session: Session, kind: Kind) -> None:
        super().__init__(session, _HEIGHT, chosen=False)
        self.kind = kind
        self.found: Candidate | None = None
        self.why = ""
        self._seconds, self._speed = 1.0, 1.0
        self.setMinimumWidth(96)

    def show_found(self, tried: Tried, seconds: float, speed: float) -> None:
        """Show what is known of it, its curve within so many s and axis units/s."""
        axis = self.session.choice.axis
        own = axis is not None and shape_of(axis.limits) == self.kind
        self.setChecked(own)
        found, why = tried.candidates.get(self.kind), tried.reasons.get(self.kind, "")
        if found is self.found and why == self.why and (self._seconds, self._speed) == (seconds, speed):
            return  # nothing else is known of it than before
        self.found, self.why, self._seconds, self._speed = found, why, seconds, speed
        told = f"{_TOLD[self.kind]}\n{self.words()}"
        self.setToolTip(literal(told))
        self.setAccessibleName(f"{TITLES[self.kind]}: {self.words()}")
        self.update()

    def words(self) -> str:
        """Say what is known of it."""
        if self.found is None:
            return self.why or "simulating …"
        lost = " full steps" if self.found.motion.slipped_full_steps else ""
        return f"{figures.short(self.found.seconds)} s, {self.share()}, {self.fate()}{lost}"

    def share(self) -> str:
        """Say what it needs of the torque there is."""
        return f"{figures.rough3(self.found.demand.ratio)} of the torque" if self.found else ""

    def fate(self) -> str:
        """Say what the simulated rotor does."""
        if self.found is None:
            return ""
        motion = self.found.motion
        if motion.follows:
            return "follows"
        lost = abs(motion.slipped_full_steps)
        return f"loses {lost}" if lost else "slips"

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        self.paint_slip(painter)
        theme = self.session.theme
        painter.setFont(font("small"))
        left = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        inner = QRectF(self.rect()).adjusted(9, 4, -9, -5)
        row = QRectF(inner.left(), inner.top(), inner.width(), 17)
        painter.drawText(row, left, TITLES[self.kind])
        if self.found is None:
            painter.setPen(theme.color("muted"))
            text = "not available" if self.why else "simulating …"
            painter.drawText(inner, Qt.AlignmentFlag.AlignCenter, text)
            return
        painter.setFont(font("strong"))
        painter.drawText(row, right, f"{figures.short(float(f'{self.found.seconds:.3g}'))} s")
        self._paint_curve(painter, QRectF(inner.left(), row.bottom() + 3, inner.width(), inner.height() - 17 - 20))
        axis = self.session.choice.axis
        margin = (axis.margin if axis else None) or USUAL_MARGIN
        good = self.found.motion.follows
        painter.setFont(font("small"))
        bottom = QRectF(inner.left(), inner.bottom() - 16, inner.width(), 16)
        needs = f"needs {figures.short(float(f'{self.found.demand.ratio:.2g}'))}"
        wide = painter.fontMetrics().horizontalAdvance
        if wide(needs) + wide(f" {self.fate()}") <= bottom.width():  # a number cut off would be another one
            painter.setPen(theme.color("ink" if self.found.demand.ratio <= 1 / margin else "bad"))
            painter.drawText(bottom, left, needs)
        painter.setPen(theme.color("good" if good else "bad"))
        painter.drawText(bottom, right, self.fate())

    def _paint_curve(self, painter: QPainter, box: QRectF) -> None:
        assert self.found is not None
        theme = self.session.theme
        pane = Pane(box, Scale(0.0, self._seconds, box.left(), box.right()), self._speed)
        times, speeds = self.found.curve
        if len(times) > 400:
            kept = np.unique(np.linspace(0, len(times) - 1, 400).astype(int))
            times, speeds = times[kept], speeds[kept]
        ends = np.concatenate((times[:1], times, times[-1:])), np.concatenate(([0.0], speeds, [0.0]))
        hue = theme.axis(self.session.choice.index) if self.found.motion.follows else theme.color("bad")
        pane.paint_area(painter, theme, hue, *ends, 1.4)


class CandidateCards(QWidget):
    """A card for each kind."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.cards = {kind: CandidateCard(session, kind) for kind in KINDS}
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        for kind, card in self.cards.items():
            card.clicked.connect(lambda _checked=False, k=kind: self.take(k))
            row.addWidget(card, 1)

    def take(self, kind: Kind) -> None:
        """Give the axis a shape."""
        axis = self.session.choice.axis
        if axis is not None and kind == "even_delays":
            self.session.notice(_TOLD[kind])
        elif axis is not None and kind != "even_delays" and shape_of(axis.limits) != kind:
            self.session.try_edit(choose_shape(self.session.choice.index, kind), f"shape of {axis.name}'s ramps")
        self.refresh()

    def refresh(self) -> None:
        """Show what is known now."""
        tried = self.session.bench.tries.now
        known = tried.candidates.values()
        seconds = max((found.seconds for found in known), default=1.0) or 1.0
        speed = max((found.peak_speed for found in known), default=1.0) or 1.0
        for card in self.cards.values():
            card.show_found(tried, seconds, speed * 1.05)
            card.setEnabled(not self.session.running.active)
