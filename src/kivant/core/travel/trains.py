"""Tooth trains and fractions near a ratio: what a gearbox may really be, of which only a measured ratio is known."""

from __future__ import annotations

from fractions import Fraction
from functools import cache
from typing import NamedTuple

import numpy as np
import numpy.typing as npt
from msgspec import Struct

LEAST_TEETH, MOST_TEETH = 9, 60
MOST_STAGES = 9
_TRIED = 20_000  # trains looked at one by one; what is asked for is narrowed to the nearest so many


class Train(Struct, frozen=True):
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


class _Table(NamedTuple):
    """Every ratio that so many pairs of wheels can make, rising, and the pairs of each: n rows, stages, two counts."""

    ratios: npt.NDArray[np.float64]
    pairs: npt.NDArray[np.int64]


@cache
def _table(stages: int) -> _Table:
    """Return the table of none, one or two pairs, each ratio once and with the fewest teeth."""
    if stages == 0:
        return _Table(np.ones(1), np.ones((1, 0, 2), np.int64))
    if stages == 1:
        teeth = np.arange(LEAST_TEETH, MOST_TEETH + 1)
        pairs = np.stack(np.meshgrid(teeth, teeth, indexing="ij"), axis=-1).reshape(-1, 1, 2)
        pairs = pairs[pairs[:, 0, 1] >= pairs[:, 0, 0]]
    else:
        one = _table(1).pairs[:, 0]
        left, right = np.triu_indices(len(one))
        pairs = np.stack((one[left], one[right]), axis=1)
    products = pairs.prod(axis=1)
    lowest = products // np.gcd(products[:, 0], products[:, 1])[:, None]
    order = np.lexsort((pairs.sum(axis=(1, 2)), lowest[:, 0], lowest[:, 1]))
    first = order[np.append(True, np.any(np.diff(lowest[order], axis=0), axis=1))]
    ratios = lowest[first, 1] / lowest[first, 0]
    rising = np.argsort(ratios)
    return _Table(ratios[rising], pairs[first][rising])


def trains(ratio: float, uncertainty: float, stages: int, most: int = 8) -> list[Train]:
    """Return trains of so many stages within twice the uncertainty of a ratio from 1 on, the nearest first.

    Up to four stages all trains are tried: the tables of two pairs each are searched from both ends. Of more stages,
    those beyond the fourth are the pairs nearest to an even share of the ratio.

    Raises
    ------
    ValueError
        If the ratio is below 1, or there are more stages than can be tried.
    """
    if ratio < 1 or not 1 <= stages <= MOST_STAGES:
        raise ValueError(f"a ratio from 1 on, and one to {MOST_STAGES} stages, are expected")
    found: dict[Fraction, Train] = {}
    for given in _even_shares(ratio, stages - 4):
        share = float(np.prod([driven / driving for driving, driven in given]))
        searched = stages - len(given)
        near = _near(_table(searched // 2), _table(searched - searched // 2), ratio / share, uncertainty / share, most)
        for pairs in near:
            train = Train(tuple(sorted((*given, *pairs), key=lambda pair: (pair[1] / pair[0], pair))), 0.0)
            error = float(train.ratio - Fraction(ratio))
            if abs(error) <= 2 * uncertainty + 1e-12 * ratio:
                found.setdefault(train.ratio, Train(train.pairs, error))
    return sorted(found.values(), key=lambda train: (abs(train.error), sum(map(sum, train.pairs))))[:most]


def _even_shares(ratio: float, beyond: int) -> list[tuple[tuple[int, int], ...]]:
    """Return what the stages beyond the fourth may be: the three pairs nearest to an even share, each as often."""
    if beyond <= 0:
        return [()]
    one = _table(1)
    nearest = np.argsort(np.abs(one.ratios - ratio ** (1 / (beyond + 4))), kind="stable")[:3]
    return [((int(driving), int(driven)),) * beyond for driving, driven in one.pairs[nearest, 0]]


def _near(first: _Table, second: _Table, ratio: float, uncertainty: float, most: int) -> list[list[tuple[int, int]]]:
    """Return the pairs of the products of two tables within twice the uncertainty, or those of the nearest."""
    width = 2 * uncertainty + 1e-12 * ratio
    if first is second:  # of two factors from one table, the first need not be the larger one
        upto = int(np.searchsorted(first.ratios, (ratio + width) ** 0.5, side="right"))
        first = _Table(first.ratios[:upto], first.pairs[:upto])
    while True:
        begin = np.searchsorted(second.ratios, (ratio - width) / first.ratios)
        counts = np.searchsorted(second.ratios, (ratio + width) / first.ratios, side="right") - begin
        total = int(counts.sum())
        if total <= _TRIED or width < 2e-12 * ratio:
            break
        width *= max(0.5 * _TRIED / total, 1e-3)
    left = np.repeat(np.arange(len(counts)), counts)
    right = np.arange(total) - np.repeat(np.cumsum(counts) - counts, counts) + np.repeat(begin, counts)
    off = np.abs(first.ratios[left] * second.ratios[right] - ratio)
    # One ratio may be reached in many ways: more than are wanted are kept, and the exact ratios tell them apart.
    rising = np.lexsort((first.pairs[left].sum(axis=(1, 2)) + second.pairs[right].sum(axis=(1, 2)), off))
    distinct = np.cumsum(np.append(True, np.diff(off[rising]) > 1e-11 * ratio)) if total else np.empty(0)
    kept = rising[distinct <= 2 * most]
    return [
        [(int(a), int(b)) for a, b in (*first.pairs[i], *second.pairs[j])]
        for i, j in zip(left[kept], right[kept], strict=True)
    ]


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
