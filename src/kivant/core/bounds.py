"""Bounds: what limits a number, or the length of a text or list; said at the fields of a machine.

Plain classes, and not those of a library: every start would make its two dozen classes, for the five that are used.
"""

from __future__ import annotations


class Bound:
    """A limit that is part of a field's annotation; each is itself and equal to no other."""

    __slots__ = ("bound",)

    def __init__(self, bound: float) -> None:
        self.bound = bound


class Gt(Bound):
    """Greater than the bound."""


class Ge(Bound):
    """The bound, or greater."""


class Le(Bound):
    """The bound, or less."""


class MinLen(Bound):
    """So many characters or entries, or more."""


class MaxLen(Bound):
    """So many characters or entries, or fewer."""
