"""What every way to a board is to the rest: one record, and what an open one can do."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

from msgspec import Struct

from kivant.core.errors import KivantError


class BoardError(KivantError):
    """A board cannot be reached, does not answer as a board does, or has refused something."""


class SilentBoardError(BoardError):
    """A board has not answered; it may have reported why."""


class SilentError(Exception):
    """Nothing came in time."""


class GoneError(Exception):
    """The other end has gone away; the text says how."""


class Transport(Protocol):
    """An open way to a board: bytes out, bytes in."""

    def send(self, data: bytes) -> None:
        """Send bytes; raises `GoneError`."""

    def receive(self) -> bytes:
        """Return what has come, at least one byte; raises `SilentError` or `GoneError`."""

    def close(self) -> None:
        """Close it."""


class TransportKind(Struct, frozen=True):
    """A way to a board.

    Parameters
    ----------
    name : str
        What it is called.
    form, example : str
        How its addresses are written, and one of them.
    knows : callable
        Whether a text is an address of it.
    open : callable
        Returns the open way to an address that it knows; raises `BoardError`.
    """

    name: str
    form: str
    example: str
    knows: Callable[[str], bool]
    open: Callable[[str], Transport]
