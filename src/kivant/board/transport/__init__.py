"""The ways to carry the protocol: one module for each, and the table of them all."""

from __future__ import annotations

from kivant.board.transport.kind import BoardError, SilentBoardError, Transport, TransportKind
from kivant.board.transport.tcp import TCP
from kivant.core.errors import Fault, shown

__all__ = [
    "TRANSPORTS",
    "BoardError",
    "SilentBoardError",
    "Transport",
    "TransportKind",
    "check_address",
    "open_transport",
]

TRANSPORTS: tuple[TransportKind, ...] = (TCP,)
"""Every way to a board; the first that knows an address takes it."""


def find_transport(address: str) -> TransportKind:
    """Return the kind of transport that an address is of.

    Raises
    ------
    BoardError
        If none knows it.
    """
    for kind in TRANSPORTS:
        if kind.knows(address):
            return kind
    remedy = f"Write {' or '.join(kind.form for kind in TRANSPORTS)}, such as {TRANSPORTS[0].example}."
    raise BoardError(Fault("board", f"“{shown(address)}” is not an address of a board.", remedy))


def check_address(address: str) -> None:
    """Refuse a text that is not an address.

    Raises
    ------
    BoardError
        If no transport knows it.
    """
    find_transport(address)


def open_transport(address: str) -> Transport:
    """Return an open way to the board at an address.

    Raises
    ------
    BoardError
        If it is not an address, or the board cannot be reached.
    """
    return find_transport(address).open(address.strip())
