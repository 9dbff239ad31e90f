"""The winding finder: which wires of a motor belong together, from what a meter shows between them.

Every way to wind a motor with so many wires is a hypothesis; readings rule hypotheses out. A reading of a real meter
scatters, and includes its leads: a hypothesis stands as long as one resistance of a half winding and one of the leads
explain all readings within `SCATTER`. What is claimed is what the last hypothesis says.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from itertools import combinations
from typing import Literal

from msgspec import Struct

SCATTER = 0.12
"""By which share a reading may differ from the truth: 10 % of the meter's, and some of the winding's own."""
LEADS_OHM = 0.6
"""The most that the meter's leads add."""
WIRE_COUNTS = (4, 5, 6, 8)

Kind = Literal["two_coils", "two_tapped", "common_tap", "four_coils", "incomplete", "contradictory"]
Seen = float | Literal["open", "connected"]
Pair = tuple[str, str]


class Reading(Struct, frozen=True):
    """What a meter showed between two wires: ohms, that they are connected, or that they are not."""

    wires: Pair
    seen: Seen


class Winding(Struct, frozen=True):
    """Wires that belong together: both ends, the tap between them if there is one, and the ohms from end to end."""

    ends: Pair
    tap: str | None
    ohm: float | None


class Found(Struct, frozen=True):
    """What follows from the readings.

    Parameters
    ----------
    kind : str
    windings : tuple of Winding
        All of them, where they are known. Of joined taps only the common wire is: nothing that a meter shows tells
        which ends are opposite ones.
    common : str or None
        The wire of all taps, joined.
    next : tuple of str or None
        The two wires between which a reading would tell most, None if none is needed.
    faults : tuple of str
        Sentences: which readings contradict each other, what is missing.
    ends : tuple of str
        Where taps are joined: the other wires.
    half_ohm : float or None
        Where taps are joined: the resistance from the tap to an end.
    """

    kind: Kind
    windings: tuple[Winding, ...] = ()
    common: str | None = None
    next: Pair | None = None
    faults: tuple[str, ...] = ()
    ends: tuple[str, ...] = ()
    half_ohm: float | None = None


class _Wound(Struct, frozen=True):
    """A hypothesis: groups of wires that are joined, with the tap of each, and for 5 wires one group with a tap."""

    groups: tuple[tuple[tuple[str, ...], str | None], ...]

    def halves(self, pair: Pair) -> int | None:
        """Return how many half windings lie between two wires, None if they are not connected."""
        for wires, tap in self.groups:
            if pair[0] in wires and pair[1] in wires:
                return 1 if tap is None or tap in pair else 2
        return None


def find_windings(readings: Sequence[Reading], wires: Sequence[str] = ()) -> Found:
    """Return what the readings say of a motor's wires.

    Parameters
    ----------
    readings : sequence of Reading
    wires : sequence of str, optional
        All wires that the motor has; those of the readings belong to it in any case.
    """
    names = list(dict.fromkeys([*wires, *(wire for reading in readings for wire in reading.wires)]))
    if len(names) not in WIRE_COUNTS:
        return Found("incomplete", faults=(f"A motor has 4, 5, 6 or 8 wires; there are {len(names)} here.",))
    every = list(_hypotheses(names))
    left = [wound for wound in every if _explains(wound, readings)]
    if not left:
        return Found("contradictory", faults=(_contradiction(every, readings),))
    if len(left) > 1:
        pair = _most_telling(left, names, readings)
        close = "The readings lie too close together. Touch the meter's tips together, and subtract what it shows."
        return Found("incomplete", next=pair, faults=() if pair else (close,))
    return _claim(left[0], readings)


def _hypotheses(names: list[str]) -> Iterator[_Wound]:
    """Yield every way to wind a motor with these wires."""
    if len(names) == 5:
        for common in names:
            yield _Wound(((tuple(names), common),))
    elif len(names) == 6:
        for others in combinations(names[1:], 2):
            first, second = (names[0], *others), tuple(name for name in names[1:] if name not in others)
            for tap in first:
                for other in second:
                    yield _Wound(((first, tap), (second, other)))
    else:
        for pairs in _pairings(names):
            yield _Wound(tuple((pair, None) for pair in pairs))


def _pairings(names: list[str]) -> Iterator[tuple[Pair, ...]]:
    if not names:
        yield ()
        return
    for other in names[1:]:
        for rest in _pairings([name for name in names[1:] if name != other]):
            yield ((names[0], other), *rest)


def _explains(wound: _Wound, readings: Iterable[Reading]) -> bool:
    """Return whether a hypothesis can be true: halves of one resistance, and leads of one, give all readings."""
    bounds = []
    for reading in readings:
        halves = wound.halves(reading.wires)
        if (halves is None) != (reading.seen == "open"):
            return False
        if halves is not None and not isinstance(reading.seen, str):
            bounds.append((halves, reading.seen / (1 + SCATTER), reading.seen / (1 - SCATTER)))
    # low <= halves * half + leads <= high for all: for each pair of them, bounds of the leads follow.
    least, most = 0.0, LEADS_OHM
    for halves, low, _high in bounds:
        for others, _low, high in bounds:
            # (low - leads) / halves <= (high - leads) / others
            slope, limit = halves - others, halves * high - others * low
            if slope > 0:
                most = min(most, limit / slope)
            elif slope < 0:
                least = max(least, limit / slope)
            elif limit < 0:
                return False
    return least <= most


def _most_telling(left: list[_Wound], names: list[str], readings: Sequence[Reading]) -> Pair | None:
    """Return the wires between which a reading would leave the fewest hypotheses, on the average."""
    taken = {frozenset(reading.wires) for reading in readings if not isinstance(reading.seen, str)}
    taken |= {frozenset(reading.wires) for reading in readings if reading.seen == "open"}

    def remaining(pair: Pair) -> int:
        return sum(count * count for count in Counter(wound.halves(pair) for wound in left).values())

    return min((pair for pair in combinations(names, 2) if frozenset(pair) not in taken), key=remaining, default=None)


def _contradiction(every: list[_Wound], readings: Sequence[Reading]) -> str:
    """Return a sentence about the fewest readings without which all others agree."""
    for count in range(1, 3):
        for without in combinations(range(len(readings)), count):
            kept = [reading for number, reading in enumerate(readings) if number not in without]
            if any(_explains(wound, kept) for wound in every):
                named = " and ".join(f"{number + 1} ({_words(readings[number])})" for number in without)
                return f"Without reading {named} all others agree. Measure there again."
    return "The readings contradict each other in more than two places. Measure again."


def _words(reading: Reading) -> str:
    shown = reading.seen if isinstance(reading.seen, str) else f"{reading.seen:g} ohm"
    return f"{reading.wires[0]} to {reading.wires[1]}: {shown}"


def _claim(wound: _Wound, readings: Sequence[Reading]) -> Found:
    if len(wound.groups) == 1:
        wires, common = wound.groups[0]
        halves = [r.seen / (wound.halves(r.wires) or 1) for r in readings if not isinstance(r.seen, str)]
        mean = sum(halves) / len(halves) if halves else None
        ends = tuple(wire for wire in wires if wire != common)
        return Found("common_tap", common=common, ends=ends, half_ohm=mean)
    kinds: dict[tuple[int, bool], Kind] = {(2, False): "two_coils", (2, True): "two_tapped", (4, False): "four_coils"}
    windings = tuple(_winding(wires, tap, readings) for wires, tap in wound.groups)
    return Found(kinds[len(windings), wound.groups[0][1] is not None], windings)


def _winding(wires: tuple[str, ...], tap: str | None, readings: Sequence[Reading]) -> Winding:
    first, second = (wire for wire in wires if wire != tap)
    own = [reading for reading in readings if set(reading.wires) <= set(wires) and not isinstance(reading.seen, str)]
    whole = [r.seen * (2.0 if tap is not None and tap in r.wires else 1.0) for r in own if not isinstance(r.seen, str)]
    return Winding((first, second), tap, sum(whole) / len(whole) if whole else None)
