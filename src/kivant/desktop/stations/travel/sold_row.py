"""What the gearbox was sold as, with the drift it would make, and how exact places of the axis have to be."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QWidget

from kivant.core.machine import Axis
from kivant.core.machine.edits import ANY, UNKNOWN
from kivant.core.path import Path
from kivant.core.travel.conversion import steps_per_unit
from kivant.core.travel.sold import sold_drift
from kivant.core.travel.stages import stage_kind
from kivant.desktop.kit import figures
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.widgets.axis_field import AxisField
from kivant.desktop.widgets.elided import ElidedText


class _SoldField(AxisField):
    def _shown(self) -> str:
        value = self.value()
        return UNKNOWN if value is None else f"1:{value}"


class _ToleranceField(AxisField):
    def _shown(self) -> str:
        return ANY if self.value() is None else super()._shown()


class SoldRow(QWidget):
    """Two figures of the chosen axis that change no step, and what they tell about its chain."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.sold = _SoldField(session, Path.of("sold"), "ratio the gearbox was sold as")
        self.sold.setToolTip(f"{self.sold.toolTip()}\nSuch as 1:30. It changes no step; leave it empty if unknown.")
        self.tolerance = _ToleranceField(session, Path.of("tolerance"), "tolerance", lambda axis: f" {axis.unit}")
        self.tolerance.setToolTip(f"{self.tolerance.toolTip()}\nThe greatest acceptable error of a place.")
        self.drift, self.step = ElidedText(session, "small", "muted"), ElidedText(session, "small", "muted")
        self.labels: dict[AxisField, QLabel] = {}
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        for text, field, told, share in (
            ("gearbox sold as", self.sold, self.drift, 5), ("tolerance", self.tolerance, self.step, 3),
        ):  # fmt: skip
            label = self.labels[field] = QLabel(text)
            label.setFont(font("small"))
            label.setBuddy(field)
            field.setFixedWidth(84)
            row.addWidget(label)
            row.addWidget(field, 0, Qt.AlignmentFlag.AlignVCenter)
            row.addWidget(told, share)
        row.addStretch(1)

    def follow(self, axis: Axis) -> None:
        """Show both as they are now."""
        self.sold.refresh()
        self.tolerance.refresh()
        geared = axis.sold is not None or any(not stage_kind(stage).linear for stage in axis.travel)
        for widget in (self.labels[self.sold], self.sold, self.drift):
            widget.setVisible(geared)
        for label, text in ((self.drift, drift_words(axis)), (self.step, tolerance_words(axis))):
            label.set_text(text, text)
        self.step.setVisible(axis.tolerance is not None)


def drift_words(axis: Axis) -> str:
    """Say how far an axis drifts that is reckoned by the ratio sold; empty where none is named."""
    found = sold_drift(axis)
    if found is None:
        return ""
    if not found.per_turn:
        return "and is that, exactly"
    turn, way = abs(float(found.per_turn)), "short" if found.per_turn < 0 else "too far"
    return (
        f"is 1:{figures.short(float(found.true))}: with 1:{axis.sold} a turn is {turn:.4g} {axis.unit} {way}, "
        f"100 turns {100 * turn:.4g} {axis.unit}"
    )


def tolerance_words(axis: Axis) -> str:
    """Say how the steps of an axis stand to its tolerance; empty where it has none."""
    if axis.tolerance is None:
        return ""
    share = axis.tolerance * float(steps_per_unit(axis))
    return f"{figures.short(share)} steps" if share >= 1 else f"less than a step: {figures.short(share)} of one"
