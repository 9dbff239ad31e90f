"""Whole turns, by which a position of an axis that turns may be another one without any difference to its tool."""

from __future__ import annotations

TURN = 360
_SAME = 1e-6  # deg: ways of which neither is the shorter one


def turns_to(position: float, here: float, low: float, high: float, same: float = _SAME) -> int:
    """Return how many whole turns beside a position, deg, an axis reaches first from where it is, within its limits.

    Of two that are as far away, to so many degrees, it is the one nearer to 0; none, if all lie beyond the limits.
    """
    middle = round((here - position) / TURN)
    own: dict[int, float] = {turns: position + TURN * turns for turns in range(middle - 1, middle + 2)}
    within = {turns: at for turns, at in own.items() if low <= at <= high} or {0: position}
    least = min(abs(at - here) for at in within.values()) + same
    ends = {turns: at for turns, at in within.items() if abs(at - here) <= least}
    return min(ends, key=lambda turns: abs(ends[turns]) - same / 2 * (ends[turns] > 0))
