"""Sequences: the cyclic tables of coil words, and the stator field each row makes. No timing, no wiring.

References
----------
.. [1] P. Acarnley, *Stepping Motors: A Guide to Theory and Practice*, 4th ed., IET, 2002, ch. 1
   (one-phase-on, two-phases-on and half-step excitation; torque as a vector sum) and ch. 6 (microstepping).
"""

from __future__ import annotations

import math
from functools import cache
from typing import Literal

from msgspec import Struct

COILS = ("A", "B", "C", "D")
COIL_ANGLES_DEG = (0.0, 90.0, 180.0, 270.0)
MOST_TORQUE = math.sqrt(2.0)
"""The longest field there is, relative to one coil's: two neighbouring coils on."""

SequenceName = Literal["wave", "full", "half"]


class Sequence(Struct, frozen=True):
    """A table that a coil driver plays.

    Parameters
    ----------
    words : tuple of int
        Its rows in positive direction; coil A is the lowest bit.
    steps_per_full_step : int
        How many rows make one full step of the motor.
    """

    words: tuple[int, ...]
    steps_per_full_step: int


SEQUENCES: dict[SequenceName, Sequence] = {
    "wave": Sequence((1, 2, 4, 8), 1),
    "full": Sequence((3, 6, 12, 9), 1),
    "half": Sequence((1, 3, 2, 6, 4, 12, 8, 9), 2),
}
"""Every sequence by its name, in the order in which they are offered."""


class Row(Struct, frozen=True):
    """One entry of a sequence with the stator field it makes.

    Parameters
    ----------
    word : int
        Bits of the coils that are on, A lowest.
    field_deg : float
        Electrical angle of the stator field, degrees in [0, 360).
    torque : float
        Length of the field relative to that of one coil.
    coils_on : int
        How many coils are on.
    """

    word: int
    field_deg: float
    torque: float
    coils_on: int


def row_of(word: int) -> Row:
    """Return the field that a coil word makes: the vector sum of the fields of its coils [1]_.

    Raises
    ------
    ValueError
        If the word is not within 0 to 15.
    """
    if not 0 <= word < 1 << len(COILS):
        raise ValueError(f"a coil word is a number from 0 to 15, not {word}")
    on = [math.radians(COIL_ANGLES_DEG[bit]) for bit in range(len(COILS)) if word >> bit & 1]
    x, y = sum(map(math.cos, on)), sum(map(math.sin, on))
    length = math.hypot(x, y)
    if length < 1e-9:  # opposite coils cancel: no field, hence no angle
        return Row(word, 0.0, 0.0, len(on))
    return Row(word, round(math.degrees(math.atan2(y, x)) % 360.0, 9) % 360.0, length, len(on))


@cache
def rows(sequence: SequenceName) -> tuple[Row, ...]:
    """Return the rows of a sequence in positive direction; row 0 is the one at rest before the first step."""
    return tuple(row_of(word) for word in SEQUENCES[sequence].words)


def row_index(sequence: SequenceName, steps: int) -> int:
    """Return which row is in force after `steps` steps from row 0, counted with their sign."""
    return steps % len(SEQUENCES[sequence].words)


def torque_range(sequence: SequenceName) -> tuple[float, float]:
    """Return the least and the greatest length of the field over the rows, relative to one coil's."""
    lengths = [row.torque for row in rows(sequence)]
    return min(lengths), max(lengths)


def mean_coils_on(sequence: SequenceName) -> float:
    """Return how many coils are on, on average over the rows; times a coil's current, what the supply gives."""
    table = rows(sequence)
    return sum(row.coils_on for row in table) / len(table)


def microstep_torque(microsteps: int) -> float:
    """Return with which share of the holding torque one microstep pulls: the sine of its electrical angle [1]_."""
    return math.sin(math.radians(90 / microsteps))
