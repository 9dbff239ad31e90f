"""Findings about supplies: more current than they give, and two voltages for one driver."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from msgspec.structs import replace

from kivant.core.drive.feeds import feeds, greatest_current
from kivant.core.findings.kind import Case, Edit, FindingKind, axis_at, figure
from kivant.core.machine.edits import with_value
from kivant.core.machine.parts import Machine, find_named
from kivant.core.path import Path, axis_path


def _overloaded(machine: Machine) -> Iterator[Case]:
    for feed in feeds(machine):
        total, _unknown = greatest_current(machine, feed)
        if feed.place is not None and feed.max_a is not None and total > feed.max_a * (1 + 1e-9):
            names = ", ".join(machine.axes[i].name for i in feed.axes)
            figures = {"supply": feed.name, "axes": names, "total": f"{total:.3g}", "most": figure(feed.max_a)}
            yield Case(Path(("supplies", feed.place, "max_a")), figures)


def _mismatched(machine: Machine) -> Iterator[Case]:
    for i, axis in enumerate(machine.axes):
        driver = axis.driver
        if driver.supply is None or driver.supply_v is None:
            continue
        volts = find_named(machine.supplies or (), driver.supply).volts
        if abs(volts - driver.supply_v) > 1e-9 * volts:
            figures = {"axis": axis.name, "own": figure(driver.supply_v), "supply": driver.supply}
            yield Case(axis_path(i, "driver", "supply_v"), figures | {"volts": figure(volts)})


def _forgotten(place: Path) -> Edit:
    def edit(machine: Machine) -> Machine:
        index, axis = axis_at(machine, place)
        driver: Any = replace(axis.driver, supply_v=None)
        return with_value(machine, axis_path(index, "driver"), driver)

    return edit


SUPPLY_OVERLOADED = FindingKind(
    code="supply-overloaded",
    severity="warning",
    subject="machine",
    title="Axes together may draw more than their supply gives.",
    check=_overloaded,
    message="{axes} together draw up to {total} A from “{supply}”, which gives {most} A.",
    remedy="Use a stronger supply, feed an axis from another one, or lower the set currents.",
)

SUPPLY_MISMATCH = FindingKind(
    code="supply-mismatch",
    severity="warning",
    subject="machine",
    title="A driver has a voltage of its own beside that of its supply.",
    check=_mismatched,
    message="{axis}'s driver says {own} V, but its supply “{supply}” has {volts} V; the supply's is used.",
    remedy="Remove supply_v, or correct the supply.",
    mend=_forgotten,
)
