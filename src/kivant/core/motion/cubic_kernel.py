"""When cubic segments reach each of their steps, in machine code: for many steps at once.

Every so many steps are solved by Newton's method between bounds that close in. Between two of those, Hermite's cubic
through both ends is so near that a single step of Newton's method is exact to rounding, and steps are independent of
one another, which lets the processor take several at a time. Beside standstill, where the time goes with the cube root
of the way, each step is solved by itself.

References
----------
W. H. Press et al., *Numerical Recipes*, 3rd ed., Cambridge University Press, 2007, sec. 9.4 (safeguarded Newton).
"""

from __future__ import annotations

import math
from typing import Any

import numba

_LEAST, _MOST = 16, 256  # steps of a block
_FAR = 32  # blocks from the anchor to one: from there on Hermite's cubic is off by 1e-8 of the time at most
_MOST_ROUNDS = 80


@numba.njit(cache=True, error_model="numpy")
def _root(x: float, v: float, a: float, j: float, high: float, guess: float) -> float:
    """Return when ``v t + a t²/2 + j t³/6`` reaches `x`, between 0 and `high`."""
    low, time = 0.0, guess
    if not 0.0 < time <= high:
        time = high
    for _ in range(_MOST_ROUNDS):
        excess = time * (v + time * (0.5 * a + time * (j / 6.0))) - x
        if excess == 0.0:
            break
        if excess > 0.0:
            high = time
        else:
            low = time
        following = time - excess / (v + time * (a + time * (0.5 * j)))
        if not low <= following <= high:
            following = 0.5 * (low + high)
        if abs(following - time) <= 4e-16 * following:
            time = following
            break
        time = following
    return time


@numba.njit(cache=True, error_model="numpy")
def solve_each(x: Any, v: Any, a: Any, j: Any, longest: Any, out: Any) -> None:
    """Solve for single steps, each with the numbers of its own segment; arrays of one length."""
    for k in range(len(x)):
        guess = 2.0 * x[k] / (v[k] + math.sqrt(max(v[k] * v[k] + 2.0 * a[k] * x[k], 0.0)))
        if j[k] > 0.0:  # what jerk alone would take is a bound, too
            guess = min(guess, math.pow(6.0 * x[k] / j[k], 1.0 / 3.0))
        out[k] = _root(x[k], v[k], a[k], j[k], longest[k], guess)


@numba.njit(cache=True, error_model="numpy")
def _block(near: float, first: float, last: float, v: float, a: float, j: float, out: Any) -> None:
    """Solve the steps of one block, of which the times of the first and of the one behind the last are known."""
    count = len(out)
    begin = count / (v + first * (a + first * (0.5 * j)))
    end = count / (v + last * (a + last * (0.5 * j)))
    span = last - first
    square, cube = 3.0 * span - 2.0 * begin - end, begin + end - 2.0 * span
    for k in range(count):
        share = k / count
        time = first + share * (begin + share * (square + share * cube))
        excess = time * (v + time * (0.5 * a + time * (j / 6.0))) - (near + k)
        out[k] = time - excess / (v + time * (a + time * (0.5 * j)))


@numba.njit(cache=True, error_model="numpy")
def solve_run(near: float, v: float, a: float, j: float, longest: float, out: Any) -> None:
    """Solve for steps one after another on one segment, the nearest one `near` steps from its anchor."""
    count, k, time = len(out), 0, 0.0
    while k < count and near + k < _FAR * _LEAST:
        x = near + k
        time = _root(x, v, a, j, longest, time if time > 0.0 else math.pow(max(6.0 * x / j, 0.0), 1.0 / 3.0))
        out[k] = time
        k += 1
    if k >= count:
        return
    first = _root(near + k, v, a, j, longest, time)
    while k < count - 1:
        many = min(max(int((near + k) / _FAR), _LEAST), _MOST, count - 1 - k)
        speed, bend = v + first * (a + first * (0.5 * j)), a + first * j
        reach = many / speed
        last = _root(near + k + many, v, a, j, longest, first + reach - 0.5 * bend * reach * reach / speed)
        _block(near + k, first, last, v, a, j, out[k : k + many])
        first = last
        k += many
    out[k] = first
