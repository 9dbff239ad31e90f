"""The way to a board: an address, a connection, and questions with answers."""

from __future__ import annotations

import re
import socket
from collections.abc import Callable
from typing import Self

from kivant.core.errors import Fault, KivantError

CONNECT_S = 3.0
ANSWER_S = 3.0
_MOST_ANSWER_BYTES = 1 << 16


class BoardError(KivantError):
    """A board cannot be reached, does not answer as a board does, or has refused something."""


def parse_address(text: str) -> tuple[str, int]:
    """Return host and port of ``host:port``; an IPv6 host stands in brackets.

    Raises
    ------
    BoardError
        If it has another form or the port is not within 1 to 65535.
    """
    match = re.fullmatch(r"\s*(\[[0-9A-Fa-f:.%a-z]+\]|[^\s:\[\]]+):(\d{1,5})\s*", text)
    if not match or not 1 <= int(match.group(2)) <= 65535:
        shown = text if len(text) <= 60 else f"{text[:57]}…"
        message = f"“{shown}” is no address of a board."
        raise BoardError(Fault("board", message, "Write host:port, such as 127.0.0.1:5025."))
    return match.group(1).strip("[]"), int(match.group(2))


class Link:
    """An open connection to a board; every method may raise `BoardError`.

    Parameters
    ----------
    address : str
        ``host:port``.
    log : callable, optional
        Called with a direction (``>`` said, ``<`` heard) and the text of each message.
    """

    def __init__(self, address: str, log: Callable[[str, str], None] = lambda _way, _text: None) -> None:
        self.address = address.strip()
        self._log = log
        self._held = b""
        host, port = parse_address(address)
        try:
            self._socket = socket.create_connection((host, port), timeout=CONNECT_S)
            self._socket.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
        except (OSError, UnicodeError) as error:
            raise self._failed("cannot be reached", error) from error
        self._socket.settimeout(ANSWER_S)

    def _failed(self, what: str, error: Exception) -> BoardError:
        known: dict[type[Exception], str] = {
            ConnectionRefusedError: "nothing listens there",
            TimeoutError: "it did not answer in time",
            socket.gaierror: "there is no host of that name",
        }
        reason = known.get(type(error)) or getattr(error, "strerror", None) or str(error)
        remedy = "Check the address, the cable and that the board is switched on."
        return BoardError(Fault(f"board {self.address}", f"The board {what}: {reason}.", remedy))

    def tell(self, message: str, body: bytes = b"") -> None:
        """Send a message, with a block at its end if there is one."""
        self._log(">", message + (f" ({len(body)} bytes)" if body else ""))
        try:
            self._socket.sendall(message.encode() + body + b"\n")
        except OSError as error:
            raise self._failed("has gone away", error) from error

    def ask(self, message: str, body: bytes = b"") -> str:
        """Send a query and return its answer."""
        self.tell(message, body)
        while b"\n" not in self._held:
            try:
                data = self._socket.recv(65536)
            except TimeoutError as error:
                raise self._failed(f"is silent after “{message}”", error) from error
            except OSError as error:
                raise self._failed("has gone away", error) from error
            if not data:
                raise self._failed("has gone away", ConnectionError("it closed the connection"))
            self._held += data
            if len(self._held) > _MOST_ANSWER_BYTES:
                raise self.rubbish(message, self._held.decode("ascii", "replace"))
        line, _, self._held = self._held.partition(b"\n")
        answer = line.decode("utf-8", "replace").strip()
        self._log("<", answer)
        return answer

    def rubbish(self, message: str, answer: str) -> BoardError:
        """Return the error for an answer that no board gives."""
        shown = "".join(c if c.isprintable() else "?" for c in answer[:60])
        said = f"The board answered “{shown}” to “{message}”, which is not what a board says."
        remedy = "Check that the address is that of a board which speaks Kivant's protocol."
        return BoardError(Fault(f"board {self.address}", said, remedy))

    def close(self) -> None:
        """Close the connection."""
        self._socket.close()

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()
