"""What every kind of driver is to the rest of the core: one record, and the changes of level it makes.

NumPy is loaded by what makes changes of level, and not with the modules of the kinds: reading, checking and
converting do without it.

All times here are whole nanoseconds, the grain in which signals are exported, so that a set-up or hold time
is met exactly and not just to rounding.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from fractions import Fraction
from typing import TYPE_CHECKING, Any, Literal, NamedTuple

from msgspec import Struct

from kivant.core.drive.phases import Row
from kivant.core.fields import Level, Part

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

AtRest = Literal["off", "hold", "reduced"]
Winding = Literal["unipolar", "bipolar"]

Connection = Literal["half_coil", "series", "parallel"]

NS_PER_S = 1_000_000_000


class Lines(Part, frozen=True, kw_only=True):
    """Which board line each line of a driver is wired to; None where it is not."""


class Driver(Part, frozen=True, kw_only=True, dict=True):
    """What turns steps into coil currents; ``kind`` names its kind."""

    if TYPE_CHECKING:
        kind: str
        lines: Any
        supply: str | None
        supply_v: float | None
        at_rest: AtRest
        reduced_percent: float | None


class Edges(Struct, frozen=True):
    """Changes of an axis's lines, in no particular order across lines.

    Parameters
    ----------
    times_ns : int64 array, shape (n,)
    keys : int8 array, shape (n,)
        Which line, an index into the driver's line keys.
    levels : int8 array, shape (n,)
        The electrical level after the change, 0 or 1.
    """

    times_ns: NDArray[np.int64]
    keys: NDArray[np.int8]
    levels: NDArray[np.int8]


class Excitation(Struct, frozen=True):
    """What a driver makes of a motor's coils at one step.

    Parameters
    ----------
    electrical_deg : float
        Angle of the stator field, in [0, 360).
    coils : tuple of float, for A, B, C, D
        What flows in each coil (end), relative to the rated current: 0 to 1 for coils that are switched, -1 to 1
        for a driver that makes the currents.
    torque : float
        Length of the field relative to one coil's.
    """

    electrical_deg: float
    coils: tuple[float, ...]
    torque: float


class Finer(NamedTuple):
    """A way of driving with smaller steps: the driver's key, its value, how many make one of now, and words for it."""

    key: str
    value: Any
    times: float
    words: str


class DriverKind(Struct, frozen=True):
    """All that the core knows of a kind of driver; every callable takes the driver first.

    Parameters
    ----------
    type : type
        The data of one driver of this kind.
    name : str
        What it is called in the window.
    winding : str
        The motor a new axis with it has.
    new : Driver
        What a new one is until it is wired and its figures are typed.
    keys : callable
        The keys of the lines it has, in the order of the format.
    optional_keys : tuple of str
        Lines that may be left unwired: None in the driver's `lines` then.
    steps_per_full_step : callable
        How many steps make one full step of the motor.
    pulse_rate : callable
        The fastest steps the driver itself takes, steps/s.
    reversal_gap_s : callable (driver, pulse_rate)
        The least time between a step and one in the other direction, s.
    first_set_up_s : callable
        How long after the plan's start the first step may come, s.
    earliest_change_ns : callable
        By how much an edge may come before the step that causes it.
    enable_lead_s : callable
        How long before the first step the driver must be enabled, s.
    levels_at : callable (driver, taken, sign)
        Levels of every line `taken` steps from row 0, the latest of them in direction `sign`.
    levels_off : callable (driver, levels)
        Levels once the power is taken away at rest.
    edges : callable (driver, times_ns, signs, taken, previous_sign)
        The changes that a run of steps makes, as `Edges`.
    excitation : callable (driver, steps)
        What it makes of the coils at a step.
    sense : callable
        Which way positive steps turn the rotor as it is wired: 1, -1, or 0 where it only shudders.
    obstacle : callable
        Why it cannot move a motor, as a sentence; empty where it can.
    rows : callable
        The table it plays row by row, None where it makes the currents itself.
    finer : callable
        How it could make smaller steps, the coarsest first.
    summary : callable
        The drive in two words, as a card of the window shows it.
    """

    type: type[Driver]
    name: str
    winding: Winding
    new: Driver
    keys: Callable[[Any], tuple[str, ...]]
    steps_per_full_step: Callable[[Any], int | Fraction]
    pulse_rate: Callable[[Any], float]
    reversal_gap_s: Callable[[Any, float], float]
    levels_at: Callable[[Any, int, int], tuple[int, ...]]
    levels_off: Callable[[Any, tuple[int, ...]], tuple[int, ...]]
    edges: Callable[[Any, NDArray[np.int64], NDArray[np.int8], int, int], Edges]
    excitation: Callable[[Any, int], Excitation]
    summary: Callable[[Any], str]
    optional_keys: tuple[str, ...] = ()
    first_set_up_s: Callable[[Any], float] = lambda _driver: 0.0
    earliest_change_ns: Callable[[Any], int] = lambda _driver: 0
    enable_lead_s: Callable[[Any], float] = lambda _driver: 0.0
    sense: Callable[[Any], int] = lambda _driver: 1
    obstacle: Callable[[Any], str] = lambda _driver: ""
    rows: Callable[[Any], tuple[Row, ...] | None] = lambda _driver: None
    finer: Callable[[Any], tuple[Finer, ...]] = lambda _driver: ()


def ns(microseconds: float) -> int:
    """Return microseconds as whole nanoseconds, never less than asked for."""
    return math.ceil(round(microseconds * 1000, 6))


def level(active: Level) -> int:
    """Return a level's electrical value."""
    return 1 if active == "high" else 0
