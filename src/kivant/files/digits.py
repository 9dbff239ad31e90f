"""Rows of text, many at a time: words of four characters, looked up in tables and joined without their padding.

A row is so many words of 32 bits. Numbers are looked up four digits at a time, which is several times as fast as
making characters one by one; what does not fill its words is padded.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kivant.core.motion.segment import Wholes

Words = NDArray[np.uint32]
"""Rows of text, shape (rows, words)."""

PAD = b"\0"
"""Stands for no character; `text_of` leaves it out."""

_QUAD = 10_000


def words_of(texts: Sequence[bytes]) -> Words:
    """Return texts as words, one a row, all as long as the longest."""
    width = max(-(-max(map(len, texts), default=0) // 4), 1)
    joined = b"".join(text.ljust(4 * width, PAD) for text in texts)
    return np.frombuffer(joined, np.uint32).reshape(-1, width)


@cache
def _quads() -> Words:
    """Return the four digits of every number below 10,000: as they are, and without leading zeros, 0 as none."""
    plain = [b"%04d" % number for number in range(_QUAD)]
    return words_of([*plain, *(text.lstrip(b"0").rjust(4, PAD) for text in plain)]).ravel()


@cache
def _led(lead: bytes) -> Words:
    """Return every number below 1,000 without leading zeros, 0 as none, behind a character."""
    return words_of([lead + b"%d" % number if number else lead for number in range(1000)]).ravel()


@cache
def _signed() -> Words:
    """Return the first digits of numbers, and behind them those of negative ones."""
    return np.concatenate((_led(b""), _led(b"-")))


@cache
def _ended() -> Words:
    """Return the two digits of every number below 100 at the end of a line: as they are, and without leading zeros."""
    return words_of([form % number for form in (b"%02d\r\n", b"%d\r\n") for number in range(100)]).ravel()


def put_chosen(rows: Words, texts: Words, which: Wholes) -> None:
    """Write of a table of texts the ones that are chosen by number into all words of rows."""
    for word in range(texts.shape[1]):  # one after the other, which takes a third of the time of all at once
        rows[:, word] = texts[:, word].take(which, mode="clip")


def put_ascending(rows: Words, values: Wholes, lead: bytes) -> None:
    """Write non-negative integers, the least first, behind a character into all words of rows: `led_words_for` many."""
    higher = _put_quads(rows[:, 1:], values, bare=False)
    rows[:, 0] = _led(lead).take(higher.astype(np.intp), mode="clip")
    characters = rows.view(np.uint8)
    for power in range(len(str(int(values[0]))), 4 * (rows.shape[1] - 1)):
        characters[: int(np.searchsorted(values, 10**power)), -1 - power] = 0


def put_last(rows: Words, values: Wholes) -> None:
    """Write integers as the last of a line, with its end, into all words of rows: `last_words_for` many."""
    magnitudes = _narrow(np.abs(values))
    hundreds = magnitudes // 100
    ends = (magnitudes - hundreds * 100).astype(np.intp)
    ends += (hundreds == 0) * 100
    rows[:, -1] = _ended().take(ends, mode="clip")
    top = _put_quads(rows[:, 1:-1], hundreds, bare=True).astype(np.intp)
    top += (values < 0) * 1000
    rows[:, 0] = _signed().take(top, mode="clip")


def _narrow(values: Any) -> Any:
    """Return numbers in 32 bits, where arithmetic is twice as fast, if they fit."""
    return values.astype(np.uint32) if values.max(initial=0) < 2**32 else values


def _put_quads(rows: Words, values: Wholes | NDArray[np.uint32], *, bare: bool) -> Wholes | NDArray[np.uint32]:
    """Write the last digits of integers, four in a word; return what is above them."""
    rest = values
    for group in range(rows.shape[1] - 1, -1, -1):
        if rest.dtype != np.uint32:
            rest = _narrow(rest)
        higher = rest // _QUAD
        quad = (rest - higher * _QUAD).astype(np.intp)
        if bare:
            quad += (higher == 0) * _QUAD
        rows[:, group] = _quads().take(quad, mode="clip")
        rest = higher
    return rest


def led_words_for(largest: int) -> int:
    """Return how many words a number takes behind one character."""
    return max(len(str(int(largest))) // 4, 1) + 1


def last_words_for(largest: int) -> int:
    """Return how many words a number takes as the last of a line."""
    return max(len(str(int(largest))) - 2, 0) // 4 + 2


def text_of(rows: Words) -> bytes:
    """Return rows as one text, without the padding."""
    return rows.tobytes().translate(None, PAD)
