"""What drivers that take pulses have in common: their times, their levels, and currents made by microstepping."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Annotated, Any

from kivant.core.bounds import Ge, Le
from kivant.core.drive.drivers.kind import NS_PER_S, Connection, Driver, Edges, Excitation, Finer, level, ns
from kivant.core.drive.switches import CurrentBank, SwitchBank
from kivant.core.fields import WHOLE, About, Level, Microseconds, Name, Positive, PulseTime

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray


class PulseDriver(Driver, frozen=True, kw_only=True):
    """A driver that takes pulses: with a direction line, or with a line for each direction.

    Times are in microseconds. For a pulse pair, direction hold and set-up together are the least time
    between a pulse on one line and a pulse on the other, and ``positive_level`` has no meaning.
    """

    kind: str
    microsteps: Annotated[int, Ge(1), Le(10_000), WHOLE, About("Pulses of one full step")]
    switches: Annotated[SwitchBank | None, About("Switches for the microsteps")] = None
    supply: Annotated[Name | None, About("Name of a supply; stands for `supply_v`")] = None
    supply_v: Annotated[Positive | None, About("Supply", "V")] = None
    connection: Annotated[Connection | None, About("How the halves of a winding are joined")] = None
    current_a: Annotated[Positive | None, About("Current the driver is set to", "A")] = None
    current_switches: Annotated[CurrentBank | None, About("Switches for the current")] = None
    pulse_high_us: Annotated[PulseTime, About("Pulse high, at least", "us")] = 2.0
    pulse_low_us: Annotated[PulseTime, About("Pulse low, at least", "us")] = 2.0
    direction_setup_us: Annotated[Microseconds, About("Direction to pulse, at least", "us")] = 5.0
    direction_hold_us: Annotated[Microseconds, About("Pulse to change of direction, at least", "us")] = 5.0
    enable_lead_us: Annotated[Microseconds, About("Enable to first pulse, at least", "us")] = 0.0
    pulse_active: Level = "high"
    positive_level: Annotated[Level, About("Level of DIR for positive motion")] = "high"
    enable_active: Level = "low"


def pulse_rate(driver: PulseDriver) -> float:
    """Return the fastest pulses the driver takes, in steps/s.

    One nanosecond is kept free beside pulse high and low, the grain to which instants are exported.
    """
    return NS_PER_S / (ns(driver.pulse_high_us) + ns(driver.pulse_low_us) + 1)


def reversal_gap_s(driver: PulseDriver, rate: float) -> float:
    """Return the least time between a step and one in the other direction, s.

    The direction line changes after the hold time (and the pulse), and the set-up time before the next
    pulse; two nanoseconds more keep this true after both instants are rounded.
    """
    high = ns(driver.pulse_high_us)
    hold, setup = max(ns(driver.direction_hold_us), high), ns(driver.direction_setup_us)
    return max((max(hold + setup, high + ns(driver.pulse_low_us)) + 2) / NS_PER_S, 1 / rate)


def enable_lead_s(driver: PulseDriver) -> float:
    """Return how long before the first step the driver must be enabled, s; 0 without an enable line."""
    return driver.enable_lead_us * 1e-6 if driver.lines.EN is not None else 0.0


def with_enable(driver: PulseDriver, *keys: str) -> tuple[str, ...]:
    """Return the keys of the driver's lines: those given, and EN only where it is wired."""
    return (*keys, "EN") if driver.lines.EN is not None else keys


def levels_off(driver: PulseDriver, levels: tuple[int, ...]) -> tuple[int, ...]:
    """Return the levels with the driver disabled, as far as it has an enable line."""
    return (*levels[:2], 1 - level(driver.enable_active)) if len(levels) == 3 else levels


def excitation(driver: PulseDriver, steps: int) -> Excitation:
    """Return the currents of microstepping: in quadrature, i_A = I cos, i_B = I sin of the electrical angle.

    References
    ----------
    P. Acarnley, *Stepping Motors: A Guide to Theory and Practice*, 4th ed., IET, 2002, ch. 6.
    """
    electrical = steps % (4 * driver.microsteps) * 90.0 / driver.microsteps
    a, b = math.cos(math.radians(electrical)), math.sin(math.radians(electrical))
    return Excitation(electrical, (a, b, -a, -b), 1.0)


def pulses(driver: PulseDriver, times_ns: NDArray[np.int64], keys: NDArray[np.int8], *more: Edges) -> Edges:
    """Return the edges of a pulse at each time on the line of each key, and some more."""
    import numpy as np

    count = len(times_ns)
    active = level(driver.pulse_active)
    falls_ns = times_ns + ns(driver.pulse_high_us)
    begin, end = np.full(count, active, np.int8), np.full(count, 1 - active, np.int8)
    return Edges(
        np.concatenate((times_ns, falls_ns, *(edges.times_ns for edges in more))),
        np.concatenate((keys, keys, *(edges.keys for edges in more))),
        np.concatenate((begin, end, *(edges.levels for edges in more))),
    )


def finer(driver: PulseDriver) -> tuple[Finer, ...]:
    """Return the usual numbers of microsteps beyond the driver's own."""
    more = [2**power for power in range(1, 9) if 2**power > driver.microsteps]
    return tuple(Finer("microsteps", count, count / driver.microsteps, f"by {count} microsteps") for count in more)


def shared() -> dict[str, Any]:
    """Return what the records of all drivers that take pulses have in common."""
    return {
        "winding": "bipolar",
        "optional_keys": ("EN",),
        "steps_per_full_step": lambda driver: driver.microsteps,
        "pulse_rate": pulse_rate,
        "reversal_gap_s": reversal_gap_s,
        "enable_lead_s": enable_lead_s,
        "earliest_change_ns": lambda driver: ns(driver.direction_setup_us),
        "levels_off": levels_off,
        "excitation": excitation,
        "finer": finer,
    }
