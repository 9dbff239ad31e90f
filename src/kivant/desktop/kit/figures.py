"""Numbers as the window writes them: grouped digits, a true minus sign, few but enough decimals."""

from __future__ import annotations

import math
import re

from kivant.core.machine import Machine

MINUS = "\u2212"
THIN = "\u2009"
_SIGN = re.compile(r"(?<= )-(?=\d)")  # of a number, and not within a name


def grouped(value: int) -> str:
    """Return a whole number with its digits in groups of three."""
    return f"{value:,}".replace(",", THIN).replace("-", MINUS)


def position(value: float, decimals: int = 3) -> str:
    """Return a position; beyond a billion in powers of ten, so that it always fits."""
    if abs(value) >= 1e9:
        return _written(f"{value:.6e}")
    text = f"{value:,.{decimals}f}".replace(",", THIN)
    return text.removeprefix("-") if float(f"{value:.{decimals}f}") == 0.0 else text.replace("-", MINUS)


def _written(text: str) -> str:
    """Return a number's text with a true minus sign and its power of ten without padding."""
    digits, mark, power = text.partition("e")
    return f"{digits}{mark}{int(power) if power else ''}".replace("-", MINUS)


def signed(words: str) -> str:
    """Return words with true minus signs at their numbers."""
    return _SIGN.sub(MINUS, words)


def short(value: float) -> str:
    """Return a figure with five significant digits."""
    if 1e5 <= abs(value) < 1e7:
        return grouped(round(float(f"{value:.5g}")))
    return _written(f"{value:.5g}")


def rough(value: float) -> str:
    """Return a figure with two significant digits."""
    return short(float(f"{value:.2g}"))


def rough3(value: float) -> str:
    """Return a figure with three significant digits."""
    return short(float(f"{value:.3g}"))


def plain(value: float) -> str:
    """Return a number as it would be typed: all digits that matter, up to twelve."""
    return _written(f"{value:.12g}")


def seconds(value: float) -> str:
    """Return a time in s with microseconds, in hours where it is long."""
    if value < 3600:
        return f"{value:.6f} s"
    hours, rest = divmod(value, 3600)
    if hours >= 100_000:
        return f"{value / 86400:.4g} days"
    return f"{int(hours)} h {int(rest // 60):02d} min {rest % 60:06.3f} s"


def brief_seconds(value: float) -> str:
    """Return a time in few characters."""
    if value < 3600:
        return f"{value:.4g} s"
    return f"{value / 3600:.4g} h" if value < 100 * 3600 else f"{value / 86400:.4g} days"


def letters(machine: Machine) -> tuple[str, ...]:
    """Return a letter for each axis: the first of its name that no axis before it has, or a digit."""
    found: list[str] = []
    for index, axis in enumerate(machine.axes):
        candidates = [c.upper() for c in axis.name if c.isalnum()] + list("ABCDEFGHIJKLMNOPQRSTUVWXYZ")
        found.append(next((c for c in candidates if c not in found), str(index + 1)))
    return tuple(found)


def shortened(name: str, most: int = 36) -> str:
    """Return a name as it is shown where there is little room: whole, or its beginning with a mark."""
    return name if len(name) <= most else f"{name[: most - 1]}…"


def nice_span(wanted: float) -> float:
    """Return the smallest of 1, 2, 5 times a power of ten that is at least `wanted`."""
    if not wanted > 0 or not math.isfinite(wanted):
        return 1.0
    power = 10.0 ** math.floor(math.log10(wanted))
    return next(power * factor for factor in (1, 2, 5, 10) if power * factor >= wanted * (1 - 1e-9))
