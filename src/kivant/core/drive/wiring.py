"""Orders of plugs: what a motor does for each way in which four outputs can reach the ends of its windings."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from kivant.core.drive.phases import row_of
from kivant.core.drive.sequence_table import ORDERS, field_turns, plugged

Verdict = Literal["forward", "reverse", "shudders"]


@dataclass(frozen=True, slots=True)
class Order:
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


def orders(words: tuple[int, ...]) -> tuple[Order, ...]:
    """Return all 24 orders of plugs for the words of a sequence, the standard one first.

    Raises
    ------
    ValueError
        If a word is not within 0 to 15.
    """
    return tuple(Order(wires, field_turns(tuple(row_of(plugged(word, wires)) for word in words))) for wires in ORDERS)
