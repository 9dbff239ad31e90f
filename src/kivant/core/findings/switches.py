"""Findings about switch banks: switches that stand otherwise than the software believes."""

from __future__ import annotations

from collections.abc import Iterator

from kivant.core.drive.switches import given, setting_for, words
from kivant.core.findings.kind import Case, Edit, FindingKind, axis_at, figure
from kivant.core.machine.edits import with_value
from kivant.core.machine.parts import Machine
from kivant.core.path import Path, axis_path

_BANKS = {"switches": ("microsteps", "microsteps"), "current_switches": ("current_a", "A")}
"""For each bank its value in the driver, and what that is counted in."""


def _different(machine: Machine) -> Iterator[Case]:
    for i, axis in enumerate(machine.axes):
        for key, (value_key, unit) in _BANKS.items():
            bank, wanted = getattr(axis.driver, key, None), getattr(axis.driver, value_key, None)
            told = given(bank) if bank is not None else None
            if bank is None or told is None or wanted is None or abs(told - wanted) <= 1e-9 * told:
                continue
            right = setting_for(bank, wanted)
            remedy = f"Set them to {right} ({words(bank, right)})" if right else "They cannot give that: choose another"
            figures = {"axis": axis.name, "told": figure(told), "wanted": figure(wanted), "unit": unit}
            yield Case(axis_path(i, "driver", key, "setting"), figures | {"setting": bank.setting, "remedy": remedy})


def _believed(place: Path) -> Edit:
    def edit(machine: Machine) -> Machine:
        _index, axis = axis_at(machine, place)
        key = str(place.parent.key)
        told = given(getattr(axis.driver, key))
        value = int(told) if told is not None and key == "switches" else told
        return with_value(machine, place.parent.parent / _BANKS[key][0], value)

    return edit


SWITCHES_DIFFER = FindingKind(
    code="switches-differ",
    severity="warning",
    subject="machine",
    title="The switches of a driver are not set as the plan needs.",
    check=_different,
    message="{axis}'s switches are set to {setting}, which gives {told} {unit}; the plan assumes {wanted} {unit}.",
    remedy="{remedy}, or take the {told} {unit} that they give.",
    mend=_believed,
)
