"""A board on the network: ``host:port``."""

from __future__ import annotations

import re
import socket

from kivant.board.transport.kind import BoardError, GoneError, SilentError, TransportKind
from kivant.core.errors import Fault

CONNECT_S = 3.0
ANSWER_S = 3.0

_ADDRESS = re.compile(r"\s*(\[[0-9A-Fa-f:.%a-z]+\]|[^\s:\[\]]+):(\d{1,5})\s*")


def parse_address(text: str) -> tuple[str, int] | None:
    """Return host and port of ``host:port``, None if it has another form; an IPv6 host stands in brackets."""
    match = _ADDRESS.fullmatch(text)
    if not match or not 1 <= int(match.group(2)) <= 65535:
        return None
    return match.group(1).strip("[]"), int(match.group(2))


_REASONS: dict[type[Exception], str] = {
    ConnectionRefusedError: "nothing listens there",
    TimeoutError: "no answer came in time",
    socket.gaierror: "there is no host with that name",
}


def _reason(error: Exception) -> str:
    return _REASONS.get(type(error)) or getattr(error, "strerror", None) or str(error)


class TcpTransport:
    """An open connection over TCP; raises what `Transport` says."""

    def __init__(self, address: str) -> None:
        place = parse_address(address)
        assert place is not None
        try:
            self._socket = socket.create_connection(place, timeout=CONNECT_S)
            self._socket.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
        except (OSError, UnicodeError) as error:
            remedy = "Check the address, the cable and that the board is switched on."
            message = f"The board cannot be reached: {_reason(error)}."
            raise BoardError(Fault(f"board {address}", message, remedy)) from error
        self._socket.settimeout(ANSWER_S)

    def send(self, data: bytes) -> None:
        """Send bytes; raises `GoneError`."""
        try:
            self._socket.sendall(data)
        except OSError as error:
            raise GoneError(_reason(error)) from error

    def receive(self) -> bytes:
        """Return what has come; raises `SilentError` or `GoneError`."""
        try:
            data = self._socket.recv(65536)
        except TimeoutError as error:
            raise SilentError(_reason(error)) from error
        except OSError as error:
            raise GoneError(_reason(error)) from error
        if not data:
            raise GoneError("it closed the connection")
        return data

    def close(self) -> None:
        """Close the connection."""
        self._socket.close()


TCP = TransportKind(
    name="network",
    form="host:port",
    example="127.0.0.1:5025",
    knows=lambda text: parse_address(text) is not None,
    open=TcpTransport,
)
