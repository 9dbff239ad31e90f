"""Converting, in the Travel station: a position turned into steps and back, and the steps on both sides of it."""

from __future__ import annotations

from fractions import Fraction

from msgspec import Struct
from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from kivant.core.errors import Fault, ValueTextError
from kivant.core.machine import Axis
from kivant.core.quantity import parse_position, parse_speed
from kivant.core.travel.conversion import Conversion, convert, steps_per_rev, steps_per_unit
from kivant.desktop.kit import figures
from kivant.desktop.kit.speed_words import forms_words
from kivant.desktop.kit.theme import font
from kivant.desktop.state.per_axis import PerAxis
from kivant.desktop.state.session import Session
from kivant.desktop.stations.travel.scales import Scales
from kivant.desktop.widgets.value_field import ValueField

_FIRST = {"deg": Fraction(90), "mm": Fraction(25, 2)}


class _Typed(Struct):
    """What was typed for an axis; nothing yet."""

    position: Fraction | None = None
    speed: Fraction | None = None


class ConvertFace(QWidget):
    """Two large figures with an equals sign, a speed in every form, and two scales."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._typed = PerAxis(session, _Typed)
        self.position = ValueField(session, "Position", self._position_text, self._take_position, "large")
        self.steps = ValueField(session, "Steps", self._steps_text, self._take_steps, "large")
        self.found = QLabel()
        self.found.setFont(font("text"))
        self.found.setWordWrap(True)
        self.speed = ValueField(session, "Speed", self._speed_text, self._take_speed, "figure")
        self.speed.setFixedWidth(260)
        self.forms = QLabel()
        self.forms.setFont(font("text"))
        self.forms.setWordWrap(True)
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
        paces = QHBoxLayout()
        paces.setSpacing(14)
        paces.addWidget(self.speed)
        paces.addWidget(self.forms, 1)
        column.addLayout(paces)
        column.addWidget(self.scales, 1)

    def _wanted(self) -> Fraction:
        axis, typed = self.session.choice.axis, self._typed.now.position
        return Fraction(0) if axis is None else _FIRST[axis.unit] if typed is None else typed

    def _pace(self, axis: Axis) -> Fraction:
        typed = self._typed.now.speed
        return Fraction(str(axis.limits.speed)) if typed is None else typed

    def _speed_text(self) -> str:
        axis = self.session.choice.axis
        return f"{figures.plain(float(self._pace(axis)))} {axis.unit}/s" if axis else ""

    def _take_speed(self, text: str, _merge: bool) -> None:
        axis = self.session.choice.axis
        if axis is not None:
            speed = parse_speed(axis, text)
            if not speed:
                message = "Nothing moves at a speed of 0."
                raise ValueTextError(Fault(axis.name, message, "Type a speed, or the time between two steps."))
            self._typed.now.speed = speed
            self.follow(axis)

    def _position_text(self) -> str:
        axis = self.session.choice.axis
        return f"{figures.plain(float(self._wanted()))} {axis.unit}" if axis else ""

    def _steps_text(self) -> str:
        axis = self.session.choice.axis
        return f"{figures.plain(float(self._wanted() * steps_per_unit(axis)))} steps" if axis else ""

    def _slide(self, position: Fraction) -> None:
        axis = self.session.choice.axis
        if axis is not None:
            self._typed.now.position = position
            self.follow(axis)

    def _take_position(self, text: str, _merge: bool) -> None:
        axis = self.session.choice.axis
        if axis is not None:
            self._typed.now.position = parse_position(axis, text)
            self.follow(axis)

    def _take_steps(self, text: str, merge: bool) -> None:
        bare = text.strip().removesuffix("steps").removesuffix("step").strip()
        self._take_position(f"{bare} steps", merge)

    def follow(self, axis: Axis) -> None:
        """Show what an axis makes of the position that was typed for it."""
        for field in (self.position, self.steps, self.speed):
            field.refresh()
        found = convert(axis, self._wanted())
        missed = f"{_missed(found.position, found.actual, axis)}; {_other_side(found, axis)}"
        side = missed if found.error else "exactly there"
        turns = float(found.steps_exact) / steps_per_rev(axis)
        reached = (
            f"nearest step {figures.grouped(found.steps)} reaches {figures.plain(float(found.actual))} {axis.unit}"
        )
        self.found.setText(f"{reached}, {side}; the rotor turns {figures.short(turns)} times")
        self.forms.setText(forms_words(axis, self._pace(axis)))
        self.scales.show_position(found)


def _missed(wanted: Fraction, reached: Fraction, axis: Axis) -> str:
    """Say by how much a place misses what is wanted, seen from 0."""
    beyond = (reached > wanted) == (wanted >= 0)
    return f"{figures.short(abs(float(reached - wanted)))} {axis.unit} {'too far' if beyond else 'short'}"


def _other_side(found: Conversion, axis: Axis) -> str:
    """Say what the step on the other side of a wanted position reaches."""
    other = found.steps + (1 if found.error < 0 else -1)
    return f"{figures.grouped(other)} is {_missed(found.position, other / found.steps_per_unit, axis)}"
