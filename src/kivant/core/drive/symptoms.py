"""From what a motor does to what is wrong: the causes that explain all that was seen, and their smallest cures.

Each cause is a way in which a drive can be wrong; what the rotor then does is computed by letting it follow the field
row by row, and never assumed. A cause is left out as soon as it cannot explain something that was told.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping
from typing import Any, Literal

from msgspec import Struct, field
from msgspec.structs import replace

Told = Literal["wrong_way", "shudders", "two_and_back", "hot", "nothing", "one_way", "dark_lamp", "stalls"]

SYMPTOMS: Mapping[Told, str] = {
    "wrong_way": "turns the wrong way",
    "shudders": "shudders in place",
    "two_and_back": "goes two forward and one back",
    "hot": "hums and gets warm",
    "nothing": "does nothing",
    "one_way": "works in one direction only",
    "dark_lamp": "one lamp of the driver stays dark",
    "stalls": "starts, then whines and stands still",
}
"""What can be seen of a motor that misbehaves at slow speed, in words."""

Values = Mapping[tuple[str, ...], Any]


class Cause(Struct, frozen=True):
    """One way in which a drive can be wrong.

    Parameters
    ----------
    kind : str
        What it is called by programs; several causes of one kind differ in the line or plugs only.
    title, cure : str
        What is wrong, and the smallest change that cures it.
    shows : frozenset of str
        What is seen because of it.
    may : frozenset of str
        What may be seen besides.
    moves : tuple of (int or None)
        Which way the rotor goes at each step forward from row 0 on: 1, -1, 0, or None where it may go either way.
        Empty where single steps tell nothing.
    likely : float
        How often it is met, in comparison with the others.
    wires : str or None
        The ends that the outputs A, B, C, D would reach.
    dead : str
        The line of the driver that does nothing.
    swap : tuple of str
        The two plugs (or lines) to change over.
    values : mapping
        Values of the axis that cure it, by their paths in the axis; empty where only a hand can.
    station : str
        Where to go, if the cure lies in another station.
    """

    kind: str
    title: str
    cure: str
    shows: frozenset[Told]
    may: frozenset[Told] = frozenset()
    moves: tuple[int | None, ...] = ()
    likely: float = 1.0
    wires: str | None = None
    dead: str = ""
    swap: tuple[str, ...] = ()
    values: Values = field(default_factory=dict)
    station: str = ""

    def explains(self, told: Collection[Told], moves: Mapping[int, int]) -> bool:
        """Return whether all that was seen can come of it: symptoms, and which way the rotor went at some steps."""
        if not set(told) <= self.shows | self.may or (told and not self.shows & set(told)):
            return False
        if not self.moves:
            return not moves or not any(moves.values())
        return all(self.moves[step % len(self.moves)] in (way, None) for step, way in moves.items())


def diagnose(causes: Collection[Cause], told: Collection[Told], moves: Mapping[int, int]) -> list[Cause]:
    """Return the causes that explain all that was told, likeliest first, one of each kind.

    Parameters
    ----------
    causes : collection of Cause
    told : collection of str
        Keys of `SYMPTOMS`.
    moves : mapping of int to int
        Which way the rotor went (1, -1, 0) at a step forward, by the number of the step from row 0.
    """
    if not told and not moves:
        return []
    left = [cause for cause in causes if cause.explains(told, moves)]
    left.sort(key=lambda cause: (-len(cause.shows & set(told)), -cause.likely))
    found: dict[str, list[Cause]] = {}
    for cause in left:
        found.setdefault(cause.kind, []).append(cause)
    return [_together(alike) for alike in found.values()]


def _together(alike: list[Cause]) -> Cause:
    """Return the first of several causes of a kind; its cure names what to try next if it is another of them."""
    first, *others = alike
    tried = [" and ".join(cause.swap) or cause.dead for cause in others]
    tried = list(dict.fromkeys(name for name in tried if name))
    return replace(first, cure=f"{first.cure} If that is not it: {', '.join(tried)}.") if tried else first
