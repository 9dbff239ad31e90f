"""Tables of coil words that somebody has typed: what their fields do, and which known sequence they are.

No timing, no driver. The field of a word is that of `kivant.core.drive.phases`.
"""

from __future__ import annotations

import re
from typing import Literal

from msgspec import Struct

from kivant.core.drive.phases import COILS, SEQUENCES, Row, SequenceName, row_of
from kivant.core.drive.wiring import ORDERS, field_steps, field_turns, plugged
from kivant.core.errors import Fault, KivantError, shown

LEAST_ROWS, MOST_ROWS = 2, 16

MEANT_SHARE = 0.75
"""A table that agrees with a sequence in so many of its rows was meant to be it."""

Active = Literal["high", "low"]
_UNKNOWN: tuple[None, None, None, Active] = (None, None, None, "high")
_ALL_ON = (1 << len(COILS)) - 1
_COMMENT = r"(?s)//[^\n]*|/\*.*?\*/|#[^\n]*"
_BRACKETS = str.maketrans(dict.fromkeys("[](){}<>", " "))


class TableError(KivantError):
    """A text that is no table of coil words; each fault names its row."""


class Table(Struct, frozen=True):
    """What a table of coil words is.

    Parameters
    ----------
    rows : tuple of Row
    turns : int
        Electrical turns of the field in one cycle, with sign; 0 where it comes back without one.
    even : bool
        Whether the field goes on by the same angle at every row.
    known : str or None
        The sequence that it is, as it stands or plugged and switched otherwise.
    start_row : int or None
        With which row of that sequence, in its positive sense, it begins.
    wires : str or None
        The order of plugs that makes it that sequence.
    active : str
        The level that switches a coil on, if it is that sequence.
    faults : tuple of str
        Sentences.
    repair : tuple of int or None
        Words that turn a motor as the table was meant to, None where nothing needs mending or nobody can tell.
    """

    rows: tuple[Row, ...]
    turns: int
    even: bool
    known: SequenceName | None
    start_row: int | None
    wires: str | None
    active: Active
    faults: tuple[str, ...]
    repair: tuple[int, ...] | None

    @property
    def sense(self) -> int:
        """Which way the field turns: 1, -1, or 0 where it does not."""
        return (self.turns > 0) - (self.turns < 0)


def parse_table(text: str) -> tuple[int, ...]:
    """Return the words in a text: rows of 0 to 15, A the lowest bit.

    Rows stand between commas, semicolons or blanks, in decimal, ``0x`` or ``0b``; where every row has four digits 0 or
    1, they are A, B, C, D from the left; where letters stand among bare digits, they are hex. Brackets and comments
    (``//``, ``#``, ``/* */``) are passed over.

    Raises
    ------
    TableError
        If a row is no word, or there are fewer than 2 or more than 16.
    """
    rows = re.split(r"[,;\s]+", re.sub(_COMMENT, " ", text).translate(_BRACKETS).strip(" \t\r\n,;"))
    rows = [row for row in rows if row]
    if not LEAST_ROWS <= len(rows) <= MOST_ROWS:
        remedy = "Type the words of one cycle, such as 1, 3, 2, 6, 4, 12, 8, 9."
        raise TableError(Fault("rows", f"Expected {LEAST_ROWS} to {MOST_ROWS} rows; found {len(rows)}.", remedy))
    if all(re.fullmatch("[01]{4}", row) for row in rows):
        return tuple(int(row[::-1], 2) for row in rows)
    if all(re.fullmatch("[0-9a-fA-F]{1,2}", row) for row in rows) and re.search("[a-fA-F]", "".join(rows)):
        rows = [f"0x{row}" for row in rows]
    words, faults = [], []
    for number, row in enumerate(rows):
        word = _word(row)
        if word is None or not 0 <= word <= _ALL_ON:
            message = f"“{shown(row)}” is not a word of four coils."
            faults.append(Fault(f"rows[{number}]", message, "Type a number from 0 to 15, or four digits 0 and 1."))
        else:
            words.append(word)
    if faults:
        raise TableError(*faults[:MOST_ROWS])
    return tuple(words)


def _word(row: str) -> int | None:
    for pattern, base in ((r"\d{1,4}", 10), (r"0[xX]([0-9a-fA-F]{1,4})", 16), (r"0?[bB]([01]{1,16})", 2)):
        found = re.fullmatch(pattern, row, re.ASCII)
        if found:
            return int(found.group(found.lastindex or 0), base)
    return None


def analyse(words: tuple[int, ...], winding: Literal["unipolar", "bipolar"] = "unipolar") -> Table:
    """Return what a table of 2 to 16 words of 0 to 15 is; the winding only matters to what is said of dead rows.

    Raises
    ------
    ValueError
        If a word is not within 0 to 15.
    """
    rows = tuple(map(row_of, words))
    steps, turns = field_steps(rows), field_turns(rows)
    dead = any(not row.torque for row in rows)
    even = bool(turns) and not dead and max(steps) - min(steps) < 1e-6
    found = _recognised(words)
    known, start_row, wires, active = found or _UNKNOWN
    faults = tuple(_faults(rows, steps, turns, winding, even=even))
    repair = None
    if not even:
        repair = _switched(words, wires, active) if wires else _mended(words)
    elif active == "low" or wires not in (None, ORDERS[0]):
        repair = _switched(words, wires or ORDERS[0], active)
    return Table(rows, turns, even, known, start_row, wires, active, faults, repair)


def _switched(words: tuple[int, ...], wires: str, active: Active) -> tuple[int, ...]:
    return tuple(plugged(word if active == "high" else _ALL_ON - word, wires) for word in words)


def _recognised(words: tuple[int, ...]) -> tuple[SequenceName, int, str, Active] | None:
    """Return the sequence, its first row, the plugs and the level that make the words it; the least change first."""
    levels: tuple[Active, ...] = ("high", "low")
    ways = sorted(ORDERS, key=lambda order: sum(map(str.__ne__, order, ORDERS[0])))
    for wires in ways:
        for active in levels:
            changed = _switched(words, wires, active)
            for name, sequence in SEQUENCES.items():
                cycles, rest = divmod(len(changed), len(sequence.words))
                if rest or changed != changed[: len(sequence.words)] * cycles:
                    continue
                start = _begins_at(changed[: len(sequence.words)], sequence.words)
                if start is not None:
                    return name, start, wires, active
    return None


def _begins_at(words: tuple[int, ...], table: tuple[int, ...]) -> int | None:
    """Return the row of a table at which the words begin, forwards or backwards; None if they are not the table."""
    for start in range(len(table)):
        forwards = table[start:] + table[:start]
        backwards = forwards[:1] + forwards[:0:-1]
        if words in (forwards, backwards):
            return start
    return None


def _mended(words: tuple[int, ...]) -> tuple[int, ...] | None:
    """Return the words that make a field, if they turn it evenly; or the sequence that all but a few rows are of."""
    live = tuple(word for word in words if row_of(word).torque)
    if LEAST_ROWS <= len(live) < len(words) and analyse(live).even:
        return live
    meant = max(
        (table for table in _all_tables() if len(table) == len(words)),
        key=lambda table: sum(map(int.__eq__, table, words)),
        default=(),
    )
    return meant if sum(map(int.__eq__, meant, words)) >= MEANT_SHARE * len(words) else None


def _all_tables() -> list[tuple[int, ...]]:
    """Return every sequence from each of its rows on, forwards and backwards."""
    tables = [sequence.words[start:] + sequence.words[:start] for sequence in SEQUENCES.values()
              for start in range(len(sequence.words))]  # fmt: skip
    return [*tables, *(table[::-1] for table in tables)]


def _faults(rows: tuple[Row, ...], steps: list[float], turns: int, winding: str, *, even: bool) -> list[str]:
    cancel = "opposite coils cancel" if winding == "unipolar" else "both ends of a coil are at one level"
    found = [
        f"Row {number} makes no field: {cancel if row.word else 'all coils are off'}."
        for number, row in enumerate(rows)
        if not row.torque
    ]
    if not any(row.torque for row in rows):
        return found
    live = [number for number, row in enumerate(rows) if row.torque]
    for place, step in enumerate(steps):
        if step == 180.0:
            between = f"From row {live[place]} to row {live[(place + 1) % len(live)]}"
            found.append(f"{between} the field turns by half a turn: either way is equally near.")
    if not turns:
        found.append("The field comes back without a turn: the rotor shudders and does not turn.")
    elif not even and len(live) == len(rows):
        found.append(f"The field advances unevenly, by {min(steps, key=abs):.0f} to {max(steps, key=abs):.0f} deg.")
    return found


def described(table: Table, order: str = ORDERS[0]) -> str:
    """Return what a table is, in a sentence, for outputs that are plugged in an order.

    A table that is known otherwise than the outputs are plugged is told with the order that it is made for.
    """
    if table.known is None:
        what = "No known sequence" if table.turns else "No rotation"
        return f"{what}; {'even' if table.even else 'uneven'}."
    cycles = len(table.rows) // len(SEQUENCES[table.known].words)
    parts = [f"The {table.known} sequence{f', {cycles} times over' if cycles > 1 else ''}"]
    if table.sense < 0 and table.wires == ORDERS[0]:
        parts.append("reversed")
    if table.start_row:
        parts.append(f"starting at row {table.start_row}")
    if table.wires not in (None, ORDERS[0]) and table.wires != order:
        parts.append(f"for outputs on the ends {table.wires}")
    if table.active == "low":
        parts.append("for coils that are on at low level")
    return f"{', '.join(parts)}."
