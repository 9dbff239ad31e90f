"""What feeds the drivers of a machine: each supply with its axes, and the most that it must give."""

from __future__ import annotations

from msgspec import Struct

from kivant.core.drive.copper import greatest_draw, supply_volts
from kivant.core.machine.parts import Machine


class Feed(Struct, frozen=True):
    """A supply, or a voltage that drivers have without naming a supply, with the axes that it feeds.

    Parameters
    ----------
    name : str
        The supply's, or the voltage in words.
    place : int or None
        Its index in the machine's supplies, None for one that is not named.
    volts : float or None
    max_a : float or None
    axes : tuple of int
        Indices of the axes.
    """

    name: str
    place: int | None
    volts: float | None
    max_a: float | None
    axes: tuple[int, ...]


def feeds(machine: Machine) -> tuple[Feed, ...]:
    """Return every supply, and behind them the voltages that drivers have without one."""
    found = [
        Feed(s.name, k, s.volts, s.max_a, tuple(i for i, a in enumerate(machine.axes) if a.driver.supply == s.name))
        for k, s in enumerate(machine.supplies or ())
    ]
    loose: dict[float | None, list[int]] = {}
    for i, axis in enumerate(machine.axes):
        if axis.driver.supply is None:
            loose.setdefault(axis.driver.supply_v, []).append(i)
    for volts, axes in loose.items():
        found.append(Feed("no supply" if volts is None else f"{volts:g} V", None, volts, None, tuple(axes)))
    return tuple(found)


def greatest_current(machine: Machine, feed: Feed) -> tuple[float, tuple[str, ...]]:
    """Return the most that a supply must give if all its axes draw the most at once, A, and whose draw is not known."""
    total, unknown = 0.0, []
    for i in feed.axes:
        axis = machine.axes[i]
        draw = greatest_draw(axis, supply_volts(machine, axis)).supply_a
        if draw is None:
            unknown.append(axis.name)
        total += draw or 0.0
    return total, tuple(unknown)
