"""Exact numbers in columns: whole numerators over whole denominators.

Fractions would reduce themselves at every operation, and one by one; over denominators that stay a column of exact
numbers is an array of whole numbers. Where 64 bits do not hold them, the arrays hold Python's own whole numbers, and
all that is done with them stays the same.
"""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Context, Decimal
from fractions import Fraction
from itertools import repeat
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from kivant.core.fields import EXACT_DIGITS
from kivant.core.motion.segment import ONE, Reals, Wholes

_DIGITS = 6  # decimal places that are tried first
_CONTEXT = Context(prec=EXACT_DIGITS)
_SCALE = Decimal(10**_DIGITS)
_HALF = np.array(0.5)
MOST = 2**60
"""What is added once or twice still fits 64 bits."""


class Exact(NamedTuple):
    """A column of exact numbers: ``over`` (int64, or objects where they are greater) divided by ``below``."""

    over: NDArray[Any]
    below: NDArray[Any]

    def nearest(self) -> tuple[Wholes, Reals]:
        """Return the nearest whole numbers (a tie goes away from zero), and what the numbers are beyond them."""
        over, below = self
        whole = (np.abs(over) + (below >> ONE)) // below * np.sign(over)
        beyond = (over - whole * below) / below
        return whole.astype(np.int64, copy=False), beyond.astype(np.float64, copy=False)

    def from_halves(self) -> Reals:
        """Return how far the numbers are from the nearest halves of odd whole numbers."""
        away: Reals = np.abs((self.over % self.below) / self.below - _HALF)
        return away.astype(np.float64, copy=False)

    def at(self, index: int) -> Fraction:
        """Return one of them."""
        return Fraction(int(self.over[index]), int(self.below[index]))


class Ratios(NamedTuple):
    """Ratios by which columns are multiplied: numerators, and denominators over so many decimal places as most have."""

    fractions: Sequence[Fraction]
    over: NDArray[Any]
    below: NDArray[Any]
    greatest: int

    @staticmethod
    def of(fractions: Sequence[Fraction]) -> Ratios:
        """Return some fractions as ratios."""
        over = [ratio.numerator for ratio in fractions]
        return Ratios(fractions, _wholes(over), _below(fractions, _DIGITS), max(map(abs, over), default=0))


def _wholes(numbers: Sequence[int]) -> NDArray[Any]:
    return np.array(numbers, np.int64 if max(map(abs, numbers), default=0) < MOST else np.object_)


def _below(fractions: Sequence[Fraction], digits: int) -> NDArray[Any]:
    return _wholes([10**digits * ratio.denominator for ratio in fractions])


def _times(scale: Decimal, values: Sequence[Decimal | int]) -> list[Decimal]:
    return list(map(_CONTEXT.multiply, repeat(scale), values))


def exact(values: Sequence[Decimal | int], ratios: Ratios, which: Wholes, added: int = 1) -> Exact:
    """Return a column of decimal numbers, each multiplied by one of some ratios; `which` says by which.

    The arrays hold the sum of as many of them as are `added`.
    """
    # Twice as fast as asking each number for its ratio. Six digits do for most positions, and it shows if not.
    below, scaled = ratios.below, _times(_SCALE, values)
    whole = list(map(int, scaled))
    if whole != scaled:
        digits = max(-Decimal(value).as_tuple().exponent for value in values if value)  # type: ignore[operator]
        below, whole = _below(ratios.fractions, digits), list(map(int, _times(Decimal(10**digits), values)))
    most = max(map(abs, whole), default=0) * ratios.greatest * added
    kind = np.int64 if most < MOST and ratios.over.dtype == below.dtype == np.int64 else np.object_
    return Exact(np.array(whole, kind) * ratios.over.take(which), below.take(which).astype(kind, copy=False))
