"""Sequences: the cyclic tables of coil words, and the stator field each row makes. No timing, no wiring.

References
----------
.. [1] P. Acarnley, *Stepping Motors: A Guide to Theory and Practice*, 4th ed., IET, 2002, ch. 1
   (one-phase-on, two-phases-on and half-step excitation; torque as a vector sum).
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from types import MappingProxyType

from kivant.core.machine import SequenceName

COILS = ("A", "B", "C", "D")
COIL_ANGLES_DEG = (0.0, 90.0, 180.0, 270.0)

WORDS: MappingProxyType[SequenceName, tuple[int, ...]] = MappingProxyType(
    {
        "wave": (1, 2, 4, 8),
        "full": (3, 6, 12, 9),
        "half": (1, 3, 2, 6, 4, 12, 8, 9),
    }
)
"""Rows of each sequence in positive direction; coil A is the lowest bit."""

STEPS_PER_FULL_STEP: MappingProxyType[SequenceName, int] = MappingProxyType({"wave": 1, "full": 1, "half": 2})


@dataclass(frozen=True, slots=True)
class Row:
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
        raise ValueError(f"a coil word lies within 0 and 15, not at {word}")
    on = [math.radians(COIL_ANGLES_DEG[bit]) for bit in range(len(COILS)) if word >> bit & 1]
    x, y = sum(map(math.cos, on)), sum(map(math.sin, on))
    length = math.hypot(x, y)
    if length < 1e-9:  # opposite coils cancel: no field, hence no angle
        return Row(word, 0.0, 0.0, len(on))
    return Row(word, round(math.degrees(math.atan2(y, x)) % 360.0, 9) % 360.0, length, len(on))


def rows(sequence: SequenceName) -> tuple[Row, ...]:
    """Return the rows of a sequence in positive direction; row 0 is the one at rest before the first step."""
    return tuple(row_of(word) for word in WORDS[sequence])


def row_index(sequence: SequenceName, steps: int) -> int:
    """Return which row is in force after `steps` steps from row 0, counted with their sign."""
    return steps % len(WORDS[sequence])
