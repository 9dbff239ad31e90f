"""Converting, in the Travel station: a position turned into steps and back, and the steps on both sides of it."""

from __future__ import annotations

from fractions import Fraction

from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from kivant.core.machine import Axis
from kivant.core.quantity import parse_position
from kivant.core.travel.conversion import convert, steps_per_rev, steps_per_unit
from kivant.desktop.kit import figures
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.stations.travel.scales import Scales
from kivant.desktop.widgets.value_field import ValueField

_FIRST = {"deg": Fraction(90), "mm": Fraction(25, 2)}


class ConvertFace(QWidget):
    """Two large figures with an equals sign, and two scales."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        # A position belongs to an axis of the document that is open.
        self._positions: tuple[object, dict[str, Fraction]] = (None, {})
        self.position = ValueField(session, "Position", self._position_text, self._take_position, "large")
        self.steps = ValueField(session, "Steps", self._steps_text, self._take_steps, "large")
        self.found = QLabel()
        self.found.setFont(font("text"))
        self.found.setWordWrap(True)
        self.scales = Scales(session)
        self.scales.moved.connect(self._slide)
        asked = QHBoxLayout()
        asked.setSpacing(14)
        for field, width in ((self.position, 260), (self.steps, 300)):
            field.setFixedWidth(width)
            field.setFixedHeight(46)
        equals = QLabel("=")
        equals.setFont(font("large"))
        asked.addWidget(self.position)
        asked.addWidget(equals)
        asked.addWidget(self.steps)
        asked.addWidget(self.found, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addLayout(asked)
        column.addWidget(self.scales, 1)

    @property
    def _asked(self) -> dict[str, Fraction]:
        """The positions that were typed, by axis, for the document that is open."""
        document = self.session.document
        if self._positions[0] is not document:
            self._positions = (document, {})
        return self._positions[1]

    def _wanted(self) -> Fraction:
        axis = self.session.choice.axis
        return self._asked.get(axis.name, _FIRST[axis.unit]) if axis else Fraction(0)

    def _position_text(self) -> str:
        axis = self.session.choice.axis
        return f"{figures.plain(float(self._wanted()))} {axis.unit}" if axis else ""

    def _steps_text(self) -> str:
        axis = self.session.choice.axis
        return f"{figures.plain(float(self._wanted() * steps_per_unit(axis)))} steps" if axis else ""

    def _slide(self, position: Fraction) -> None:
        axis = self.session.choice.axis
        if axis is not None:
            self._asked[axis.name] = position
            self.follow(axis)

    def _take_position(self, text: str, _merge: bool) -> None:
        axis = self.session.choice.axis
        if axis is not None:
            self._asked[axis.name] = parse_position(axis, text)
            self.follow(axis)

    def _take_steps(self, text: str, merge: bool) -> None:
        bare = text.strip().removesuffix("steps").removesuffix("step").strip()
        self._take_position(f"{bare} steps", merge)

    def follow(self, axis: Axis) -> None:
        """Show what an axis makes of the position that was typed for it."""
        for field in (self.position, self.steps):
            field.refresh()
        found = convert(axis, self._wanted())
        beyond = (found.error > 0) == (found.position >= 0)
        missed = f"{figures.short(abs(float(found.error)))} {axis.unit} {'too far' if beyond else 'short'}"
        side = missed if found.error else "exactly there"
        turns = float(found.steps_exact) / steps_per_rev(axis)
        reached = (
            f"nearest step {figures.grouped(found.steps)} reaches {figures.plain(float(found.actual))} {axis.unit}"
        )
        self.found.setText(f"{reached}, {side}; the rotor turns {figures.short(turns)} times")
        self.scales.show_position(found)
