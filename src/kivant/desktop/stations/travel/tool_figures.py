"""The figures of the tool that the stand-in drives for the chosen axis: in what it differs from its chain."""

from __future__ import annotations

from collections.abc import Callable
from decimal import Decimal
from functools import partial
from typing import Any

from msgspec import Struct
from PySide6.QtWidgets import QGridLayout, QLabel, QWidget

from kivant.core.errors import Fault, ValueTextError
from kivant.core.machine import Axis
from kivant.core.quantity import as_decimal, parse_position, whole
from kivant.core.travel.mechanics import Mechanics
from kivant.desktop.kit import figures
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.widgets.value_field import ValueField
from kivant.files.reader import read_part
from kivant.files.writer import written

_NONE = "none"


class _Figure(Struct, frozen=True):
    """One of them: what it is called and means, how it is shown, and what a text makes of it in a file."""

    word: str
    means: str
    shown: Callable[[Mechanics, Axis], str]
    typed: Callable[[dict[str, Any], Axis, str], None]


def _decimal(text: str) -> Decimal:
    try:
        return Decimal(text.strip())
    except ArithmeticError:
        raise ValueTextError(Fault("scale", f"“{text.strip()}” is not a number.", "Type one such as 1.01.")) from None


def _length(key: str) -> Callable[[dict[str, Any], Axis, str], None]:
    def take(body: dict[str, Any], axis: Axis, text: str) -> None:
        body[key] = as_decimal(parse_position(axis, text))

    return take


def _ripple(body: dict[str, Any]) -> dict[str, Any]:
    """Return the first periodic error of an object, made where there is none."""
    if not body.get("periodic"):
        body["periodic"] = [{"shaft": 0, "amplitude": 0}]
    found: dict[str, Any] = body["periodic"][0]
    return found


def _take_amplitude(body: dict[str, Any], axis: Axis, text: str) -> None:
    _ripple(body)["amplitude"] = as_decimal(parse_position(axis, text))


def _take_shaft(body: dict[str, Any], _axis: Axis, text: str) -> None:
    word = text.strip().lower().removeprefix("stage").strip()
    _ripple(body)["shaft"] = 0 if word == "rotor" else whole(word, "shaft")


def _take_lost(body: dict[str, Any], _axis: Axis, text: str) -> None:
    body.pop("lost_every", None)
    if text.strip().lower() not in ("", _NONE):
        body["lost_every"] = whole(text.strip().removeprefix("1 in"), "number of steps", ("steps",))


def _in_units(value: float, axis: Axis) -> str:
    return f"{figures.short(value)} {axis.unit}"


def _shaft_words(tool: Mechanics) -> str:
    shaft = tool.periodic[0].shaft if tool.periodic else 0
    return f"stage {shaft}" if shaft else "rotor"


def _take_scale(body: dict[str, Any], _axis: Axis, text: str) -> None:
    body["scale"] = _decimal(text)


_FIGURES = (
    _Figure("scale", "how far the tool goes for a commanded way", lambda m, _a: figures.plain(m.scale), _take_scale),
    _Figure("play", "lost motion at a reversal", lambda m, a: _in_units(m.backlash, a), _length("backlash")),
    _Figure(
        "once a turn", "an error that comes once a turn of a shaft, to either side",
        lambda m, a: _in_units(m.periodic[0].amplitude if m.periodic else 0.0, a), _take_amplitude,
    ),
    _Figure("of", "rotor, or the number of a stage", lambda m, _a: _shaft_words(m), _take_shaft),
    _Figure("scatter", "the standard deviation of readings", lambda m, a: _in_units(m.noise, a), _length("noise")),
    _Figure(
        "lost steps", "one step in so many is lost, or none",
        lambda m, _a: f"1 in {m.lost_every}" if m.lost_every else _NONE, _take_lost,
    ),
)  # fmt: skip


class ToolFigures(QWidget):
    """A line of figures to type; hidden where the stand-in drives nothing for the axis. `changed` follows an edit."""

    def __init__(self, session: Session, changed: Callable[[], None]) -> None:
        super().__init__()
        self.session, self._changed = session, changed
        self.fields: dict[str, ValueField] = {}
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(0)
        whose = QLabel("the stand-in\nhas here")
        whose.setFont(font("small"))
        grid.addWidget(whose, 0, 0, 2, 1)
        for column, one in enumerate(_FIGURES, 1):
            field = ValueField(session, f"Stand-in: {one.word}", partial(self._shown, one), partial(self._take, one))
            field.setToolTip(f"Of the tool that the stand-in drives: {one.means}.")
            label = QLabel(one.word)
            label.setFont(font("small"))
            label.setBuddy(field)
            grid.addWidget(label, 0, column)
            grid.addWidget(field, 1, column)
            self.fields[one.word] = field

    def tool(self) -> Mechanics | None:
        """Return what the stand-in drives for the chosen axis; None where it only counts."""
        axis = self.session.choice.axis
        return self.session.running.tools.mechanics.get(axis.name) if axis else None

    def _shown(self, one: _Figure) -> str:
        axis, tool = self.session.choice.axis, self.tool()
        return one.shown(tool, axis) if axis is not None and tool is not None else ""

    def _take(self, one: _Figure, text: str, _merge: bool) -> None:
        axis, tool = self.session.choice.axis, self.tool()
        if axis is None or tool is None:
            return
        body = written(tool)
        one.typed(body, axis, text)
        made, faults = read_part(Mechanics, body)
        if made is None:
            raise ValueTextError(Fault(axis.name, faults[0].message, faults[0].remedy))
        self.session.running.tools.change(axis.name, made)
        self._changed()

    def refresh(self) -> None:
        """Show the figures as they are now."""
        self.setVisible(self.tool() is not None and not self.session.running.address)
        for field in self.fields.values():
            field.refresh()
