"""The one family of errors that a user can cause, and the facts each of them carries."""

from __future__ import annotations

from msgspec import Struct

from kivant.core.path import Path

MOST_FAULTS = 50
"""How many faults are told at once: nobody reads more."""


class Fault(Struct, frozen=True):
    """One thing that is wrong: where, what was found and expected, and what to do.

    Parameters
    ----------
    place : Path or str
        Key path in the machine (``axes[1].limits.speed``); or a line and column, an address, a file's name.
    message : str
        What was found and what was expected, as a sentence.
    remedy : str
        What a maker can do about it, as a sentence.
    """

    place: Path | str
    message: str
    remedy: str = ""

    def __str__(self) -> str:
        where = f"{self.place}: " if self.place else ""
        return f"{where}{self.said}"

    @property
    def said(self) -> str:
        """Message and remedy, without the place."""
        return f"{self.message} {self.remedy}".strip()


class KivantError(Exception):
    """Something the user can put right; ``faults`` lists all of it, at least one."""

    def __init__(self, *faults: Fault) -> None:
        super().__init__("\n".join(str(fault) for fault in faults))
        self.faults = faults


class ValueTextError(KivantError):
    """A typed value (``90deg``) that cannot be understood or does not fit the axis."""


def shown(text: str, most: int = 60) -> str:
    """Return a text as it is quoted in a message: whole, or its beginning with a mark, and nothing hidden in it."""
    return printable(text if len(text) <= most else f"{text[: most - 1]}…")


def printable(text: str) -> str:
    """Return a text so that no terminal obeys it and nothing in it is hidden: control characters as their signs (␛)."""
    return text if text.isprintable() else "".join(map(_sign, text))


def _sign(character: str) -> str:
    if character.isprintable():
        return character
    code = ord(character)
    return chr(0x2400 + code) if code < 0x20 else "\u2421" if code == 0x7F else "\ufffd"
