"""Questions and answers over an open way to a board, each told to a log."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Self

from kivant.board.transport import BoardError, SilentBoardError, open_transport
from kivant.board.transport.kind import GoneError, SilentError
from kivant.core.errors import Fault, printable, shown

_MOST_ANSWER_BYTES = 1 << 16
MOST_QUOTED = 200  # characters
_ANSWER_S = 5.0  # for a whole answer, in however many pieces it comes


class Link:
    """An open connection to a board; every method may raise `BoardError`.

    Parameters
    ----------
    address : str
        An address that one of the transports knows.
    log : callable, optional
        Called with a direction (``>`` said, ``<`` heard) and the text of each message.
    """

    def __init__(self, address: str, log: Callable[[str, str], None] = lambda _way, _text: None) -> None:
        self.address = address.strip()
        self._log = log
        self._held = b""
        self._transport = open_transport(address)

    def _failed(self, what: str, reason: str) -> BoardError:
        remedy = "Check the address, the cable and that the board is switched on."
        return BoardError(Fault(f"board {self.address}", f"The board {what}: {reason}.", remedy))

    def tell(self, message: str, body: bytes = b"") -> None:
        """Send a message, with a block at its end if there is one.

        Raises
        ------
        BoardError
            If the board has gone away.
        """
        self._log(">", message + (f" ({len(body)} bytes)" if body else ""))
        try:
            self._transport.send(message.encode() + body + b"\n")
        except GoneError as error:
            raise self._failed("has disconnected", str(error)) from error

    def ask(self, message: str, body: bytes = b"") -> str:
        """Send a query and return its answer.

        Raises
        ------
        BoardError
            If the board has gone away, is silent, or answers without end.
        """
        self.tell(message, body)
        begun_s = time.monotonic()
        while b"\n" not in self._held:
            if time.monotonic() - begun_s > _ANSWER_S:
                raise self._failed(f"did not answer “{message}”", "it keeps sending bytes")
            try:
                self._held += self._transport.receive()
            except SilentError as error:
                raise SilentBoardError(*self._failed(f"did not answer “{message}”", str(error)).faults) from error
            except GoneError as error:
                raise self._failed("has disconnected", str(error)) from error
            if len(self._held) > _MOST_ANSWER_BYTES:
                raise self.rubbish(message, self._held.decode("ascii", "replace"))
        line, _, self._held = self._held.partition(b"\n")
        answer = line.decode("utf-8", "replace").strip()
        self._log("<", printable(answer))
        return answer

    def rubbish(self, message: str, answer: str) -> BoardError:
        """Return the error for an answer that no board gives."""
        said = f"The board answered “{shown(answer, MOST_QUOTED)}” to “{message}”, which is not a valid answer."
        remedy = "Check that the address is that of a board which speaks Kivant's protocol."
        return BoardError(Fault(f"board {self.address}", said, remedy))

    def close(self) -> None:
        """Close the connection."""
        self._transport.close()

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()
