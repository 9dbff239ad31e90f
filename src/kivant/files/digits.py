"""Numbers as text, many at a time: columns of digits in a byte matrix, made by arithmetic on arrays."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Bytes = NDArray[np.uint8]

PAD = 0
"""Marks a cell that holds no character; `joined` leaves it out."""


def _quads() -> Bytes:
    numbers = np.arange(10_000)
    return np.stack([numbers // 10**k % 10 + ord("0") for k in (3, 2, 1, 0)], axis=1).astype(np.uint8)


_QUADS = _quads()


def digits(values: NDArray[np.int64], width: int, least: int = 1) -> Bytes:
    """Return non-negative integers in decimal, right-aligned, shape (n, width).

    Leading zeros become `PAD`, but for the last `least` digits.
    """
    groups = -(-width // 4)
    text = np.empty((len(values), 4 * groups), np.uint8)
    rest = values
    for group in range(groups - 1, 0, -1):
        rest, low = np.divmod(rest, 10_000)
        text[:, 4 * group : 4 * group + 4] = _QUADS[low]
    text[:, :4] = _QUADS[rest]
    text = text[:, 4 * groups - width :]
    if least < width:
        lengths = np.ones(len(values), np.int64)
        for power in range(1, width):
            lengths += values >= 10**power
        columns = np.arange(width)
        text[columns[None, :] < width - np.maximum(lengths, least)[:, None]] = PAD
    return text


def width_of(largest: int) -> int:
    """Return how many digits `largest` has."""
    return len(str(int(largest)))


def constant(text: bytes, count: int) -> Bytes:
    """Return the same characters in every row, shape (count, len(text))."""
    return np.broadcast_to(np.frombuffer(text, np.uint8), (count, len(text)))


def joined(*columns: Bytes) -> bytes:
    """Return the rows of all columns side by side as one text, without the padding."""
    matrix = np.concatenate(columns, axis=1)
    return matrix[matrix != PAD].tobytes()
