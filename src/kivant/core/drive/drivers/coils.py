"""A coil driver: four switches, one a coil end, that play a sequence of rows."""

from __future__ import annotations

import math
from fractions import Fraction
from functools import cache
from typing import TYPE_CHECKING, Annotated, Literal

from msgspec.structs import replace

from kivant.core.bounds import Ge, Le, MaxLen
from kivant.core.drive.drivers.kind import (
    AtRest,
    Connection,
    Driver,
    DriverKind,
    Edges,
    Excitation,
    Finer,
    Lines,
    level,
)
from kivant.core.drive.phases import COILS, SEQUENCES, Row, SequenceName, row_of
from kivant.core.drive.sequence_table import MOST_ROWS, analyse
from kivant.core.drive.wiring import field_turns, plugged
from kivant.core.fields import WHOLE, About, Extra, Level, Name, Order, Part, Percent, Positive

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray


_WHOLE = ("wave", "full")
Outputs = Literal["sink", "source", "bridge"]
"""Whether outputs draw current from a tap to ground, give it to a tap, or drive both ends of a winding."""


class CoilLines(Lines, frozen=True, kw_only=True):
    """The board lines of the four coils; for a bipolar motor A+, B+, A-, B- in this order."""

    A: Name
    B: Name
    C: Name
    D: Name
    x: Extra = None


class OwnSequence(Part, frozen=True, kw_only=True):
    """A table of coil words of one's own; coil A is the lowest bit."""

    rows: Annotated[tuple[Annotated[int, Ge(0), Le(15), WHOLE], ...], MaxLen(MOST_ROWS), About("Words of one cycle")]
    x: Extra = None


class CoilDriver(Driver, frozen=True, kw_only=True):
    """Four switches, one a coil end, that play a sequence of rows."""

    kind: Literal["coils"] = "coils"
    sequence: SequenceName | OwnSequence
    outputs: Annotated[Outputs | None, About("What an output does when it is on; left out: not known")] = None
    supply: Annotated[Name | None, About("Name of a supply; stands for `supply_v`")] = None
    supply_v: Annotated[Positive | None, About("Supply", "V")] = None
    connection: Annotated[Connection | None, About("How the halves of a winding are joined")] = None
    active: Annotated[Level, About("Line level that switches a coil on")] = "high"
    wires: Annotated[Order | None, About("End of the winding that each of the outputs A, B, C, D reaches")] = None
    lines: CoilLines
    at_rest: AtRest = "hold"
    reduced_percent: Annotated[Percent | None, About("Share of the current at rest, with `reduced`", "%")] = None
    x: Extra = None


def _words(driver: CoilDriver) -> tuple[int, ...]:
    sequence = driver.sequence
    return sequence.rows if isinstance(sequence, OwnSequence) else SEQUENCES[sequence].words


def sequence_of(words: tuple[int, ...]) -> SequenceName | OwnSequence:
    """Return the sequence of these words: by its name, where it has one."""
    return next((name for name, known in SEQUENCES.items() if known.words == words), OwnSequence(rows=words))


def sequence_name(driver: CoilDriver) -> str:
    """Return what the sequence of a driver is called."""
    return "own table" if isinstance(driver.sequence, OwnSequence) else driver.sequence


def _steps_per_full_step(driver: CoilDriver) -> int | Fraction:
    """Return a quarter of the rows of an electrical turn; of all rows where the field does not turn."""
    if not isinstance(driver.sequence, OwnSequence):
        return SEQUENCES[driver.sequence].steps_per_full_step
    words = _words(driver)
    found = Fraction(len(words), 4 * (abs(field_turns(_rows(words, None))) or 1))
    return found.numerator if found.denominator == 1 else found


def _obstacle(driver: CoilDriver) -> str:
    own = isinstance(driver.sequence, OwnSequence)
    return analyse(_words(driver)).faults[-1] if own and not field_turns(_rows(_words(driver), None)) else ""


def _levels_at(driver: CoilDriver, taken: int, _sign: int) -> tuple[int, ...]:
    words, on = _words(driver), level(driver.active)
    word = words[taken % len(words)]
    return tuple(on if word >> bit & 1 else 1 - on for bit in range(len(COILS)))


def _levels_off(driver: CoilDriver, levels: tuple[int, ...]) -> tuple[int, ...]:
    return (1 - level(driver.active),) * len(levels)


def _edges(
    driver: CoilDriver, times_ns: NDArray[np.int64], signs: NDArray[np.int8], taken: int, _previous_sign: int
) -> Edges:
    import numpy as np

    words = np.array(_words(driver))
    positions = taken + np.concatenate(([0], np.cumsum(signs, dtype=np.int64)))
    bits = (words[positions % len(words)] >> np.arange(len(COILS))[:, None]) & 1
    levels = (bits if driver.active == "high" else 1 - bits).astype(np.int8)
    keys, steps = np.nonzero(levels[:, 1:] != levels[:, :-1])
    return Edges(times_ns[steps], keys.astype(np.int8), levels[keys, steps + 1])


@cache
def _rows(words: tuple[int, ...], wires: str | None) -> tuple[Row, ...]:
    """Return the rows: their words are the driver's, their fields those of the ends that the words reach."""
    return tuple(replace(row_of(plugged(word, wires) if wires else word), word=word) for word in words)


def _excitation(driver: CoilDriver, steps: int) -> Excitation:
    table = _rows(_words(driver), driver.wires)
    row = table[steps % len(table)]
    ends = row.word if driver.wires is None else plugged(row.word, driver.wires)
    return Excitation(row.field_deg, tuple(float(ends >> bit & 1) for bit in range(len(COILS))), row.torque)


def _sense(driver: CoilDriver) -> int:
    turns = field_turns(_rows(_words(driver), driver.wires))
    return (turns > 0) - (turns < 0)


COILS_KIND = DriverKind(
    type=CoilDriver,
    name="coil driver",
    winding="unipolar",
    new=CoilDriver(sequence="half", lines=CoilLines(A="", B="", C="", D="")),
    keys=lambda _driver: COILS,
    steps_per_full_step=_steps_per_full_step,
    obstacle=_obstacle,
    pulse_rate=lambda _driver: math.inf,
    reversal_gap_s=lambda _driver, pulse_rate: 1 / pulse_rate,
    levels_at=_levels_at,
    levels_off=_levels_off,
    edges=_edges,
    excitation=_excitation,
    rows=lambda driver: _rows(_words(driver), driver.wires),
    sense=_sense,
    finer=lambda driver: (Finer("sequence", "half", 2, "by half steps"),) if driver.sequence in _WHOLE else (),
    summary=lambda driver: f"coils, {sequence_name(driver).removesuffix(' table')}",
)
