"""The switch that has every rotor simulated over the plan, and what came of it."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QSize, Qt
from PySide6.QtGui import QPainter, QPolygonF
from PySide6.QtWidgets import QPushButton

from kivant.desktop.kit import figures
from kivant.desktop.kit.literal import literal
from kivant.desktop.kit.theme import Theme
from kivant.desktop.state.session import Session

_WHAT = (
    "Simulate every rotor over the plan: slips are marked on the track and in the lanes, and the rotor in Phases moves "
    "as it would."
)


class RotorSwitch(QPushButton):
    """Pressed while rotors are simulated."""

    def __init__(self, session: Session) -> None:
        super().__init__("rotors")
        self.session = session
        self.setProperty("kind", "plain")
        self.setCheckable(True)
        self.setFixedSize(QSize(58, 34))
        self.toggled.connect(session.following.switch)
        session.following_changed.connect(self.refresh)
        session.plan_changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show how far it is, and tell what each rotor does."""
        following, made = self.session.following, self.session.planning.plan
        busy = following.on and following.busy and made is not None
        self.setText(f"{following.count} of {len(made.axes)}" if busy and made is not None else "rotors")
        told = [words for index in range(len(made.axes) if made else 0) if (words := rotor_words(self.session, index))]
        self.setToolTip(literal("\n".join([_WHAT, *told])))
        self.setAccessibleName("Simulate rotors" + (f": {'; '.join(told)}" if told else ""))


def rotor_words(session: Session, index: int) -> str:
    """Say what the simulated rotor of an axis does over the plan; an empty text where that is not known."""
    made, found = session.planning.plan, session.following.of(index)
    if made is None or index >= len(made.axes):
        return ""
    axis = made.axes[index]
    if found is None:
        why = session.following.why_not(index)
        return f"{axis.name}: {why}" if why else ""
    motion = found.motion
    if motion.first_slip_s is not None:
        lost = f", {abs(motion.slipped_full_steps)} full steps in all" if motion.slipped_full_steps else ""
        return f"{axis.name} slips, first at {figures.short(motion.first_slip_s)} s{lost}."
    if not axis.steps:
        return f"{axis.name} stands."
    swing, rests_s = motion.trace.ringing(axis.train.instant(axis.steps - 1))
    return (
        f"{axis.name} follows, at most {motion.greatest_lag_deg:.0f} deg behind of 180; at the end it swings by "
        f"{figures.rough3(swing)} full steps and rests after {figures.rough3(1000 * rests_s)} ms."
    )


def paint_slip(painter: QPainter, theme: Theme, x: float, top: float, bottom: float) -> None:
    """Paint the mark of a slip: an upright line with a flag."""
    bad = theme.color("bad")
    painter.setPen(theme.pen(bad, 1.4))
    painter.drawLine(QPointF(x, top), QPointF(x, bottom))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(bad)
    painter.drawPolygon(QPolygonF([QPointF(x, top), QPointF(x + 7, top + 3.5), QPointF(x, top + 7)]))
    painter.setBrush(Qt.BrushStyle.NoBrush)
