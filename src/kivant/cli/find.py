"""Finding what a verb was given the name of."""

from __future__ import annotations

from kivant.core.errors import Fault, KivantError, shown
from kivant.core.machine import Axis, Machine


def find_axis(machine: Machine, name: str) -> Axis:
    """Return the axis of a name.

    Raises
    ------
    KivantError
        If the machine has none of that name.
    """
    try:
        return machine.axis(name)
    except KeyError:
        known = ", ".join(axis.name for axis in machine.axes) or "no axes yet"
        raise KivantError(Fault("axes", f"There is no axis “{shown(name)}”.", f"The machine has {known}.")) from None
