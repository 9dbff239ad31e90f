"""Exact numbers in columns: whole numerators over whole denominators.

Fractions would reduce themselves at every operation, and one by one; over denominators that stay a column of exact
numbers is an array of whole numbers. Where 64 bits do not hold them, the arrays hold Python's own whole numbers, and
all that is done with them stays the same.
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
MOST = 2**60
"""What is added once or twice still fits 64 bits."""


class Exact(NamedTuple):
    """A column of exact numbers: ``over`` (int64, or objects where they are greater) divided by ``below``."""

    over: NDArray[Any]
    below: NDArray[Any]

    def nearest(self) -> tuple[Wholes, Reals]:
        """Return the nearest whole numbers (a tie goes away from zero), and what the numbers are beyond them."""
        over, below = self
        whole = (np.abs(over) + (below >> 1)) // below * np.sign(over)
        beyond = (over - whole * below) / below
        return whole.astype(np.int64, copy=False), beyond.astype(np.float64, copy=False)

    def at(self, index: int) -> Fraction:
        """Return one of them."""
        return Fraction(int(self.over[index]), int(self.below[index]))


def exact(values: Sequence[Decimal | int], ratios: Sequence[Fraction], which: Wholes, added: int = 1) -> Exact:
    """Return a column of decimal numbers, each multiplied by one of some ratios; `which` says by which.

    The arrays hold the sum of as many of them as are `added`.
    """
    digits = _DIGITS
    with localcontext(prec=EXACT_DIGITS):
        # Twice as fast as asking each number for its ratio. Six digits do for most positions, and it shows if not.
        scaled = list(map(Decimal(10**digits).__mul__, values))
        whole = list(map(int, scaled))
        if whole != scaled:
            digits = max(-Decimal(value).as_tuple().exponent for value in values if value)  # type: ignore[operator]
            whole = list(map(int, map(Decimal(10**digits).__mul__, values)))
    over = [ratio.numerator for ratio in ratios]
    below = [10**digits * ratio.denominator for ratio in ratios]
    most = max(map(abs, whole), default=0) * max(map(abs, over), default=0) * added
    kind = np.int64 if most < MOST and max(below, default=0) < MOST else np.object_
    column: NDArray[Any] = np.array(whole, kind)
    return Exact(column * np.array(over, kind)[which], np.array(below, kind)[which])
