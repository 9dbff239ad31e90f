"""Edits of supplies: new ones, other names and figures, taking them away, and which drivers they feed."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from kivant.core import quantity
from kivant.core.errors import Fault, KivantError
from kivant.core.machine.axes import free_name
from kivant.core.machine.check import checked
from kivant.core.machine.edits import UNKNOWN, Edit
from kivant.core.machine.parts import Axis, Machine, Supply

NEW_VOLTS = 12.0


def _fed(axis: Axis, supply: str | None, volts: float | None) -> Axis:
    driver: Any = replace(axis.driver, supply=supply, supply_v=volts)
    return replace(axis, driver=driver)


def _with(machine: Machine, supplies: tuple[Supply, ...], axes: tuple[Axis, ...]) -> Machine:
    return checked(replace(machine, supplies=supplies or None, axes=axes))


def add_supply(axes: tuple[int, ...] = (), volts: float | None = None) -> Edit:
    """Add a supply that feeds some axes; of their voltage, if they have one."""

    def edit(machine: Machine) -> Machine:
        supplies, value = machine.supplies or (), volts or NEW_VOLTS
        name = free_name((supply.name for supply in supplies), f"{value:g} V supply")
        fed = tuple(_fed(axis, name, None) if k in axes else axis for k, axis in enumerate(machine.axes))
        return _with(machine, (*supplies, Supply(name=name, volts=value)), fed)

    return edit


def feed_axis(index: int, supply: str | None) -> Edit:
    """Let a supply feed an axis; None: the axis keeps the voltage, of no supply."""

    def edit(machine: Machine) -> Machine:
        axis = machine.axes[index]
        volts = None
        if supply is None:
            named = {s.name: s.volts for s in machine.supplies or ()}
            volts = named.get(axis.driver.supply or "", axis.driver.supply_v)
        axes = (*machine.axes[:index], _fed(axis, supply, volts), *machine.axes[index + 1 :])
        return _with(machine, machine.supplies or (), axes)

    return edit


def rename_supply(place: int, text: str) -> Edit:
    """Give a supply another name, at the drivers too."""

    def edit(machine: Machine) -> Machine:
        supplies = machine.supplies or ()
        old, new = supplies[place].name, text.strip()
        renamed = (*supplies[:place], replace(supplies[place], name=new), *supplies[place + 1 :])
        axes = tuple(
            _fed(axis, new, axis.driver.supply_v) if axis.driver.supply == old else axis for axis in machine.axes
        )
        return _with(machine, renamed, axes)

    return edit


def type_supply(place: int, key: str, text: str) -> Edit:
    """Give a supply the voltage (``volts``) or greatest current (``max_a``) that was typed.

    The edit raises `ValueTextError` where the text is none.
    """

    def edit(machine: Machine) -> Machine:
        supplies = machine.supplies or ()
        unknown = key == "max_a" and text.strip().lower() in ("", UNKNOWN)
        value = None if unknown else float((quantity.volts() if key == "volts" else quantity.amperes()).parse(text))
        changed = replace(supplies[place], **{key: value})
        return _with(machine, (*supplies[:place], changed, *supplies[place + 1 :]), machine.axes)

    return edit


def remove_supply(place: int) -> Edit:
    """Remove a supply; the axes it fed keep its voltage.

    The edit raises `KivantError` where there is no such supply.
    """

    def edit(machine: Machine) -> Machine:
        supplies = machine.supplies or ()
        if not 0 <= place < len(supplies):
            raise KivantError(Fault("supplies", "There is no such supply.", "Choose one that is shown."))
        gone = supplies[place]
        axes = tuple(_fed(a, None, gone.volts) if a.driver.supply == gone.name else a for a in machine.axes)
        return _with(machine, (*supplies[:place], *supplies[place + 1 :]), axes)

    return edit
