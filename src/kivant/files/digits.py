"""Numbers as text, many at a time: columns of digits in a byte matrix, made by arithmetic on arrays."""

from __future__ import annotations

from functools import cache

import numpy as np
from numpy.typing import NDArray

Bytes = NDArray[np.uint8]

PAD = 0
"""Marks a cell that holds no character; `joined` leaves it out."""


@cache
def _quads() -> NDArray[np.uint32]:
    """Return the four digits of every number below 10,000, packed into one word each."""
    numbers = np.arange(10_000)
    digit = np.stack([numbers // 10**k % 10 + ord("0") for k in (3, 2, 1, 0)], axis=1)
    return digit.astype(np.uint8).view(np.uint32).ravel()


def digits(values: NDArray[np.int64], width: int, least: int = 1) -> Bytes:
    """Return non-negative integers in decimal, right-aligned, shape (n, width).

    Leading zeros become `PAD`, but for the last `least` digits.
    """
    groups = -(-width // 4)
    words = np.empty((len(values), groups), np.uint32)
    rest = values
    for group in range(groups - 1, -1, -1):
        higher = rest // 10_000
        words[:, group] = _quads()[rest - higher * 10_000]
        rest = higher
    text = words.view(np.uint8)[:, 4 * groups - width :]
    smallest = int(values.min()) if len(values) else 0
    for power in range(max(least, width_of(smallest)), width):
        text[values < 10**power, width - 1 - power] = PAD
    return text


def width_of(largest: int) -> int:
    """Return how many digits `largest` has."""
    return len(str(int(largest)))


def constant(text: bytes, count: int) -> Bytes:
    """Return the same characters in every row, shape (count, len(text))."""
    return np.broadcast_to(np.frombuffer(text, np.uint8), (count, len(text)))


def joined(*columns: Bytes) -> bytes:
    """Return the rows of all columns side by side as one text, without the padding."""
    return np.concatenate(columns, axis=1).tobytes().translate(None, bytes([PAD]))
