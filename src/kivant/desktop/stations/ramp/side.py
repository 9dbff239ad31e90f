"""What stands beside the ramp's chart: its shape and limits to be typed, and the figures of the move."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QPushButton, QWidget

from kivant.core.machine import Axis
from kivant.core.machine.edits import NONE, set_value
from kivant.core.machine.parts import shape_of
from kivant.core.machine.ramps import choose_shape
from kivant.core.motion.trial import TrialMove
from kivant.core.motor.resonance import band_of, natural_hz
from kivant.core.motor.spare import USUAL_MARGIN
from kivant.core.path import Path, axis_path
from kivant.core.travel.conversion import rotor_turns_per_unit
from kivant.desktop.kit import figures
from kivant.desktop.kit.literal import literal
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.widgets.axis_field import AxisField
from kivant.desktop.widgets.word_choice import WordChoice

_SHAPES = {"none": "none", "trapezoid": "trapezoid", "s_curve": "S-curve", "torque": "by torque"}
_LIMITS = (  # path in the axis, name, unit, shapes that have it
    ("limits.speed", "speed", "/s", tuple(_SHAPES)),
    ("limits.acceleration", "acceleration", "/s²", ("trapezoid", "s_curve", "torque")),
    ("limits.deceleration", "deceleration", "/s²", ("trapezoid", "s_curve", "torque")),
    ("limits.jerk", "jerk", "/s³", ("s_curve",)),
    ("limits.start_speed", "start speed", "/s", ("trapezoid", "s_curve", "torque")),
    ("limits.avoid", "avoid", "/s", tuple(_SHAPES)),
    ("margin", "margin", "", tuple(_SHAPES)),
)
_PHASES = {"acceleration": "accelerating", "cruise": "cruising", "deceleration": "decelerating"}
_FIGURES = (
    "duration", *_PHASES.values(), "peak", "rotor", "step rate", "pulse limit", "first interval", "shortest"
)  # fmt: skip


class _LimitField(AxisField):
    """A limit; bands of speed and the margin in words of their own."""

    def _shown(self) -> str:
        axis, value = self.session.choice.axis, self.value()
        if axis is None:
            return ""
        if self.path.key == "margin":
            return figures.plain(axis.margin or USUAL_MARGIN)
        if value is None:
            return NONE
        if self.path.key == "avoid":
            bands = axis.limits.avoid or ()
            return ", ".join(f"{figures.plain(low)} to {figures.plain(high)}" for low, high in bands) or NONE
        return super()._shown()


class ShapeChoice(WordChoice):
    """The shape of an axis's ramps."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, Path.of("limits", "shape"), "shape of the ramp", _SHAPES, choose_shape)

    def value(self) -> object:
        """Return the shape in force, said or not."""
        axis = self.session.choice.axis
        return shape_of(axis.limits) if axis else None


class RampSide(QWidget):
    """Two columns: names, and what can be typed or read."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setFixedWidth(250)
        self.shape = ShapeChoice(session)
        self.fields = {
            _key(path): _LimitField(session, Path(path.split(".")), name, _unit(per))
            for path, name, per, _in in _LIMITS
        }
        self.propose = QPushButton("propose")
        self.propose.setProperty("kind", "plain")
        self.propose.setFont(font("small"))
        self.propose.clicked.connect(self._propose)
        self.values = {name: QLabel() for name in _FIGURES}
        self._names: dict[str, QLabel] = {}
        self._lay_out()

    def _lay_out(self) -> None:
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(4)
        grid.setColumnStretch(1, 1)
        grid.addWidget(self._small("shape"), 0, 0)
        own = QHBoxLayout()
        own.addSpacing(4)
        own.addWidget(self.shape)
        own.addStretch(1)
        grid.addLayout(own, 0, 1)
        for line, (path, name, _per, _in) in enumerate(_LIMITS, 1):
            label = self._names[path] = self._small(name)
            label.setBuddy(self.fields[_key(path)])
            grid.addWidget(label, line, 0)
            if path == "limits.avoid":
                row = QHBoxLayout()
                row.setSpacing(4)
                row.addWidget(self.fields[_key(path)], 1)
                row.addWidget(self.propose)
                grid.addLayout(row, line, 1)
            else:
                grid.addWidget(self.fields[_key(path)], line, 1)
        line = len(_LIMITS) + 1
        grid.setRowMinimumHeight(line, 10)
        for name, value in self.values.items():
            line += 1
            grid.addWidget(self._small(name), line, 0)
            value.setFont(font("strong"))
            value.setAlignment(Qt.AlignmentFlag.AlignRight)
            grid.addWidget(value, line, 1)
        grid.setRowStretch(line + 1, 1)

    def _small(self, text: str) -> QLabel:
        label = QLabel(text)
        label.setFont(font("small"))
        return label

    def _propose(self) -> None:
        """Avoid the speeds at which full steps come at the rotor's own frequency."""
        axis, index = self.session.choice.axis, self.session.choice.index
        if axis is not None:
            band = band_of(self.session.document.machine, axis)
            edit = set_value(axis_path(index, "limits", "avoid"), (band,))
            if self.session.try_edit(edit, f"avoid of {axis.name}"):
                hz = figures.rough3(natural_hz(self.session.document.machine, axis))
                self.session.notice(f"The rotor swings at about {hz} Hz: full steps at that rate are avoided.")

    def refresh(self) -> None:
        """Show the limits of the chosen axis, those that its shape has."""
        axis = self.session.choice.axis
        self.shape.refresh()
        shape = shape_of(axis.limits) if axis else "trapezoid"
        for path, _name, _per, shapes in _LIMITS:
            self.fields[_key(path)].refresh()
            for part in (self.fields[_key(path)], self._names[path]):
                part.setVisible(shape in shapes)
        self.propose.setEnabled(not self.session.running.active)
        if axis is not None:
            hz = figures.rough3(natural_hz(self.session.document.machine, axis))
            told = f"{axis.name}'s rotor swings about a step at some {hz} Hz: avoid full steps at that rate."
            self.propose.setToolTip(literal(told))

    def tell(self, found: TrialMove | None) -> None:
        """Show the figures of a move."""
        texts = dict.fromkeys(_FIGURES, "–") | (_figures(found) if found is not None else {})
        for name, text in texts.items():
            self.values[name].setText(text)


def _key(path: str) -> str:
    """Return the key of a field: the last name of its path."""
    return path.rpartition(".")[2]


def _unit(per: str) -> Callable[[Axis], str]:
    return lambda axis: f" {axis.unit}{per}" if per else ""


def _figures(found: TrialMove) -> dict[str, str]:
    """Return the figures of a move in words."""
    axis, unit = found.axis, found.axis.axis.unit
    texts = {"duration": figures.seconds(found.seconds)}
    for phase in found.phases:
        texts[_PHASES[phase.name]] = f"{figures.short(phase.seconds)} s, {figures.short(phase.distance)} {unit}"
    texts["peak"] = f"{figures.short(axis.peak_speed)} {unit}/s"
    texts["rotor"] = f"{figures.short(axis.peak_speed * float(rotor_turns_per_unit(axis.axis)) * 60)} rpm"
    texts["step rate"] = f"{figures.short(axis.peak_pulse_hz)} steps/s"
    used, limit = 100 * axis.peak_pulse_hz / found.pulse_limit_hz, found.pulse_limit_hz
    texts["pulse limit"] = f"{figures.short(used)} % of {figures.short(limit)}/s"
    gaps = found.intervals_s
    if len(gaps):
        texts["first interval"] = f"{figures.short(gaps[0] * 1e6)} µs"
        texts["shortest"] = f"{figures.short(float(gaps.min()) * 1e6)} µs"
    return texts
