"""Orders of plugs: what a motor does for each way in which four outputs can reach the ends of its windings."""

from __future__ import annotations

from itertools import pairwise, permutations
from typing import Literal

from msgspec import Struct

from kivant.core.drive.phases import COILS, Row, row_of

ORDERS = tuple("".join(order) for order in permutations(COILS))
"""Every way to plug four outputs: the winding's end that each of A, B, C, D reaches."""

Verdict = Literal["forward", "reverse", "shudders"]


class Order(Struct, frozen=True):
    """One order of plugs.

    Parameters
    ----------
    wires : str
        The winding's end that each of the outputs A, B, C, D reaches.
    turns : int
        Electrical turns of the field in one cycle of the sequence, with sign.
    """

    wires: str
    turns: int

    @property
    def verdict(self) -> Verdict:
        """What the motor does."""
        return "forward" if self.turns > 0 else "reverse" if self.turns < 0 else "shudders"


def plugged(word: int, wires: str) -> int:
    """Return which winding ends a word switches on where each output A, B, C, D reaches the end of `wires`."""
    return sum(1 << COILS.index(end) for bit, end in enumerate(wires) if word >> bit & 1)


def field_steps(rows: tuple[Row, ...]) -> list[float]:
    """Return by how much the field goes on from each row that has one to the next such row, around the cycle.

    Degrees in (-180, 180]; half a turn is told as 180, and may go either way.
    """
    angles = [row.field_deg for row in rows if row.torque]
    return [180.0 - (180.0 - (after - before)) % 360.0 for before, after in pairwise([*angles, *angles[:1]])]


def field_turns(rows: tuple[Row, ...]) -> int:
    """Return the turns of the field in one cycle, with sign; 0 where half a turn may go either way."""
    steps = field_steps(rows)
    return 0 if 180.0 in steps else round(sum(steps) / 360.0)


def nearest_forward(words: tuple[int, ...], wires: str) -> str:
    """Return the order that turns the motor forward and leaves most plugs of another order where they are."""
    forward = [order.wires for order in orders(words) if order.verdict == "forward"]
    return min(forward, key=lambda order: sum(map(str.__ne__, order, wires)), default=ORDERS[0])


def orders(words: tuple[int, ...]) -> tuple[Order, ...]:
    """Return all 24 orders of plugs for the words of a sequence, the standard one first.

    Raises
    ------
    ValueError
        If a word is not within 0 to 15.
    """
    return tuple(Order(wires, field_turns(tuple(row_of(plugged(word, wires)) for word in words))) for wires in ORDERS)


def field_path(words: tuple[int, ...], wires: str) -> tuple[Row, ...]:
    """Return the fields of a cycle where each output A, B, C, D reaches the end of `wires`."""
    return tuple(row_of(plugged(word, wires)) for word in words)


def why(words: tuple[int, ...], wires: str) -> str:
    """Return what a motor does with an order of plugs, and why, as a sentence."""
    rows = field_path(words, wires)
    turns = field_turns(rows)
    if turns:
        count = f"{abs(turns)} electrical turn{'s' if abs(turns) > 1 else ''} a cycle"
        return f"{wires} turns as wanted: {count}." if turns > 0 else f"{wires} turns the other way: {count}."
    live = [number for number, row in enumerate(rows) if row.torque]
    if not live:
        return f"{wires} makes no field at all."
    jumps = [place for place, step in enumerate(field_steps(rows)) if step == 180.0]
    if jumps:
        first, second = live[jumps[0]], live[(jumps[0] + 1) % len(live)]
        return f"{wires} only shudders: from row {first} to row {second} the field jumps by half a turn."
    return f"{wires} only shudders: the field goes to and fro, and makes no turn."
