"""A speed in every form that people use, in words."""

from __future__ import annotations

from fractions import Fraction

from kivant.core.machine import Axis
from kivant.core.travel.speeds import speed_forms
from kivant.core.travel.stages import stage_kind
from kivant.desktop.kit import figures


def _time(seconds: float) -> str:
    """Return a time in the unit in which it has a figure before the point."""
    factor, unit = (1e6, "µs") if seconds < 1e-3 else (1e3, "ms") if seconds < 1 else (1.0, "s")
    return f"{figures.short(seconds * factor)} {unit}"


def forms_words(axis: Axis, speed: Fraction) -> str:
    """Return a speed of an axis, which is not 0, in all forms but the axis's own."""
    forms = speed_forms(axis, speed)
    shaft = f"of the {stage_kind(axis.travel[-1]).name}" if axis.unit == "mm" and axis.travel else "at the tool"
    parts = (
        f"{figures.short(float(forms.output_rpm))} rpm {shaft}",
        f"{figures.short(float(forms.rotor_rpm))} rotor rpm",
        f"{figures.short(float(forms.steps_per_s))} steps/s",
        f"{figures.short(float(forms.full_steps_per_s))} full steps/s",
        f"{_time(float(forms.s_per_step))} a step",
        f"{_time(float(forms.s_per_turn))} a turn",
    )
    return " = ".join(parts)
