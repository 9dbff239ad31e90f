"""Exact numbers in columns: whole numerators over one denominator.

Fractions would reduce themselves at every operation, and one by one; over one denominator a column of exact numbers is
an array of whole numbers. Where 64 bits do not hold them, the arrays hold Python's own whole numbers, and all that is
done with them stays the same.
"""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal, localcontext
from fractions import Fraction
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from kivant.core.fields import EXACT_DIGITS
from kivant.core.motion.segment import Reals, Wholes

_DIGITS = 6  # decimal places that are tried first
_MOST = 2**60  # what is doubled, and added once, still fits 64 bits


class Exact(NamedTuple):
    """A column of exact numbers: ``numerators`` (int64, or objects where they are greater) over ``denominator``."""

    numerators: NDArray[Any]
    denominator: int

    def nearest(self) -> tuple[Wholes, Reals]:
        """Return the nearest whole numbers (a tie goes away from zero), and what the numbers are beyond them."""
        whole = (2 * np.abs(self.numerators) + self.denominator) // (2 * self.denominator)
        whole *= np.sign(self.numerators)
        beyond = (self.numerators - whole * self.denominator) / self.denominator
        return whole.astype(np.int64), np.asarray(beyond, np.float64)

    def sums(self) -> Exact:
        """Return the sums of all numbers up to each."""
        numbers = _wide(self.numerators, len(self.numerators) + 1)
        return Exact(np.add.accumulate(numbers), self.denominator)

    def at(self, index: int) -> Fraction:
        """Return one of them."""
        return Fraction(int(self.numerators[index]), self.denominator)


def _wide(numbers: NDArray[Any], factor: int, least: int = 0) -> NDArray[Any]:
    """Return whole numbers in such a way that they can be multiplied by a factor and held against `least`."""
    most = max(-int(numbers.min(initial=0)), int(numbers.max(initial=0))) * factor
    return numbers.astype(object) if most >= _MOST or least >= _MOST else numbers


def exact(values: Sequence[Decimal | int], ratio: Fraction) -> Exact:
    """Return a column of decimal numbers, each multiplied by a ratio."""
    digits = _DIGITS
    with localcontext() as context:
        context.prec = EXACT_DIGITS
        # Twice as fast as asking each number for its ratio. Six digits do for most positions, and it shows if not.
        scaled = list(map(Decimal(10**digits).__mul__, values))
        whole = list(map(int, scaled))
        if whole != scaled:
            digits = max(-Decimal(value).as_tuple().exponent for value in values if value)  # type: ignore[operator]
            whole = list(map(int, map(Decimal(10**digits).__mul__, values)))
    try:
        numbers = np.array(whole, np.int64)
    except OverflowError:
        numbers = np.array(whole, object)
    denominator = 10**digits * ratio.denominator
    return Exact(_wide(numbers, abs(ratio.numerator), denominator) * ratio.numerator, denominator)
