"""The kinds of drivers: one module for each, the table of them all, and what is asked of any driver."""

from __future__ import annotations

from typing import TYPE_CHECKING

from kivant.core.drive.drivers.coils import COILS_KIND, CoilDriver, CoilLines, OwnSequence, sequence_name, sequence_of
from kivant.core.drive.drivers.kind import NS_PER_S, AtRest, Driver, DriverKind, Edges, Excitation, Lines, Winding, ns
from kivant.core.drive.drivers.pulse_pair import PULSE_PAIR, PulsePairDriver, PulsePairLines
from kivant.core.drive.drivers.pulses import PulseDriver
from kivant.core.drive.drivers.step_direction import STEP_DIRECTION, StepDirectionDriver, StepDirectionLines

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

__all__ = [
    "DRIVERS", "NS_PER_S", "AtRest", "CoilDriver", "CoilLines", "Driver", "DriverKind", "Edges", "Excitation", "Lines",
    "OwnSequence", "PulseDriver", "PulsePairDriver", "PulsePairLines", "StepDirectionDriver", "StepDirectionLines",
    "Winding", "board_lines", "driver_kind", "levels_after", "levels_at_start", "line_keys", "ns", "pulse_rate_limit",
    "sequence_name", "sequence_of", "step_edges", "switches_off",
]  # fmt: skip

DRIVERS: dict[str, DriverKind] = {"coils": COILS_KIND, "step_direction": STEP_DIRECTION, "pulse_pair": PULSE_PAIR}
"""Every kind by the value of the key ``kind``."""


def driver_kind(driver: Driver) -> DriverKind:
    """Return the record of a driver's kind."""
    return DRIVERS[driver.kind]


def line_keys(driver: Driver) -> tuple[str, ...]:
    """Return the keys of the lines the driver has, in the order of the format; EN only where it is wired."""
    return driver_kind(driver).keys(driver)


def board_lines(driver: Driver) -> dict[str, str]:
    """Return which board line each of the driver's lines is wired to."""
    return {key: getattr(driver.lines, key) for key in line_keys(driver)}


def pulse_rate_limit(driver: Driver) -> float:
    """Return the fastest steps the driver itself takes, in steps/s; infinite for coils."""
    return driver_kind(driver).pulse_rate(driver)


def levels_at_start(driver: Driver, first_sign: int) -> tuple[int, ...]:
    """Return the level of every line at time 0 of a plan whose first step goes in direction `first_sign`.

    Row 0 is energised, pulse lines rest, the direction is set, the driver is enabled.
    """
    return driver_kind(driver).levels_at(driver, 0, first_sign)


def levels_after(driver: Driver, levels: tuple[int, ...]) -> tuple[int, ...]:
    """Return the levels once the plan has ended, by the driver's behaviour at rest; `levels` are the last."""
    return driver_kind(driver).levels_off(driver, levels) if driver.at_rest == "off" else levels


def switches_off(driver: Driver) -> bool:
    """Return whether the motor loses its power at rest: it is to, and there is a line for it."""
    return driver.at_rest == "off" and levels_after(driver, on := levels_at_start(driver, 1)) != on


def step_edges(
    driver: Driver, times_ns: NDArray[np.int64], signs: NDArray[np.int8], taken: int, previous_sign: int
) -> Edges:
    """Return the changes of level that a run of steps makes.

    Parameters
    ----------
    times_ns, signs : int64 and int8 arrays, shape (n,)
        The steps, in time order.
    taken : int
        Position before them in steps from row 0, with sign.
    previous_sign : int
        Direction of the step before them (of the first of them, where there is none).
    """
    return driver_kind(driver).edges(driver, times_ns, signs, taken, previous_sign)
