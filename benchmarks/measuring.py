"""Rounds in which both sides of a claim take turns, and the lines of the table."""

from __future__ import annotations

import time
from collections.abc import Callable


def best(*sides: Callable[[], object], rounds: int = 5) -> list[float]:
    """Return the least time of each side in s; the sides take turns."""
    least = [float("inf")] * len(sides)
    for _ in range(rounds):
        for index, side in enumerate(sides):
            begin = time.perf_counter()
            side()
            least[index] = min(least[index], time.perf_counter() - begin)
    return least


def row(claim: str, ours: float, theirs: float, wanted: str) -> None:
    """Print one line of the table."""
    print(f"{claim:<64} {ours * 1e3:>10.2f} ms {theirs * 1e3:>10.2f} ms {ours / theirs:>8.3f}   {wanted}")
