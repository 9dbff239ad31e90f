"""Tooth trains and fractions near a ratio: what a gearbox may really be, of which only a measured ratio is known."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from dataclasses import dataclass
from fractions import Fraction
from functools import cache

LEAST_TEETH, MOST_TEETH = 9, 60
MOST_STAGES = 3


@dataclass(frozen=True, slots=True)
class Train:
    """Pairs of driving and driven teeth, and by how much their ratio differs from the one that was asked for."""

    pairs: tuple[tuple[int, int], ...]
    error: float

    @property
    def ratio(self) -> Fraction:
        """Turns of the input for one of the output."""
        found = Fraction(1)
        for driving, driven in self.pairs:
            found *= Fraction(driven, driving)
        return found


@cache
def _pairs() -> list[tuple[float, int, int]]:
    """Return every pair of wheels by its ratio, the one with the fewest teeth for each."""
    best: dict[Fraction, tuple[int, int]] = {}
    for driving in range(LEAST_TEETH, MOST_TEETH + 1):
        for driven in range(driving, MOST_TEETH + 1):
            best.setdefault(Fraction(driven, driving), (driving, driven))
    return sorted((float(ratio), *teeth) for ratio, teeth in best.items())


def trains(ratio: float, uncertainty: float, stages: int, most: int = 8) -> list[Train]:
    """Return trains of so many stages within twice the uncertainty of a ratio above 1, the nearest first.

    Raises
    ------
    ValueError
        If the ratio is not above 1, or there are more stages than can be tried.
    """
    if ratio < 1 or not 1 <= stages <= MOST_STAGES:
        raise ValueError("a ratio from 1 on, and one to three stages, are expected")
    low, high = ratio - 2 * uncertainty, ratio + 2 * uncertainty
    found: dict[Fraction, Train] = {}
    _extend((), 1.0, low, high, ratio, stages, found)
    return sorted(found.values(), key=lambda train: (abs(train.error), sum(map(sum, train.pairs))))[:most]


def _extend(
    pairs: tuple[tuple[int, int], ...], now: float, low: float, high: float, ratio: float, left: int,
    found: dict[Fraction, Train],
) -> None:  # fmt: skip
    """Add pairs, each of at least the ratio of the one before, until so many are left."""
    table = _pairs()
    if left == 1:
        least = pairs[-1][1] / pairs[-1][0] if pairs else 1.0
        begin = bisect_left(table, (max(low / now, least) - 1e-12,))
        for value, driving, driven in table[begin : bisect_right(table, (high / now + 1e-12, MOST_TEETH + 1))]:
            train = Train((*pairs, (driving, driven)), now * value - ratio)
            found.setdefault(train.ratio, train)
        return
    begin = bisect_left(table, ((pairs[-1][1] / pairs[-1][0] if pairs else 1.0) - 1e-12,))
    # The rest are at least as large: none of them can be larger than the root of what is left.
    for value, driving, driven in table[
        begin : bisect_right(table, ((high / now) ** (1 / left) + 1e-12, MOST_TEETH + 1))
    ]:
        if now * value * (MOST_TEETH / LEAST_TEETH) ** (left - 1) >= low:
            _extend((*pairs, (driving, driven)), now * value, low, high, ratio, left - 1, found)


def simplest_fractions(value: float, uncertainty: float, most: int = 5) -> list[Fraction]:
    """Return the fractions within twice the uncertainty of a positive value, those of small denominators first."""
    low, high = Fraction(value) - 2 * Fraction(uncertainty), Fraction(value) + 2 * Fraction(uncertainty)
    found: list[Fraction] = []
    for denominator in range(1, 10_000):
        first = -(-low.numerator * denominator // low.denominator)
        while first * high.denominator <= high.numerator * denominator:
            fraction = Fraction(first, denominator)
            if fraction.denominator == denominator and first > 0:
                found.append(fraction)
            if len(found) == most:
                return found
            first += 1
    return found
