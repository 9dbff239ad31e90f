"""The stand-in on a TCP port of the loopback address: one thread a connection, one board for all."""

from __future__ import annotations

import select
import socketserver
import threading
from collections.abc import Callable
from typing import Self

from kivant.board.standin.clock import SteadyClock
from kivant.board.standin.device import Session, StandIn
from kivant.board.standin.dialogue import poll, receive

LOOPBACK = "127.0.0.1"
_POLL_S = 0.02
_MOST_CONNECTIONS = 16


class BoardServer:
    """A stand-in board that serves in the background from `start` (or ``with``) until `close`.

    Parameters
    ----------
    port : int
        0 takes any free one; ``address`` tells which.
    clock : callable or None
        Seconds; a faster one makes the board live faster. None: a `SteadyClock`.

    Raises
    ------
    OSError
        If the port cannot be opened.
    """

    def __init__(self, port: int = 0, clock: Callable[[], float] | None = None) -> None:
        self.board = StandIn(clock or SteadyClock())
        self.lock = threading.Lock()
        self._closing = threading.Event()
        self._slots = threading.BoundedSemaphore(_MOST_CONNECTIONS)
        outer = self

        class Handler(socketserver.BaseRequestHandler):
            def handle(self) -> None:
                outer._serve(self)

        class Server(socketserver.ThreadingTCPServer):
            allow_reuse_address = True
            daemon_threads = True

            def service_actions(self) -> None:
                with outer.lock:  # time goes on for the board with nobody connected, too
                    outer.board.advance()

        self._server = Server((LOOPBACK, port), Handler)
        self._thread = threading.Thread(target=self._server.serve_forever, args=(0.05,), daemon=True)

    @property
    def address(self) -> str:
        """Where it is to be reached, ``host:port``."""
        return f"{LOOPBACK}:{self._server.server_address[1]}"

    def start(self) -> Self:
        """Begin to serve."""
        self._thread.start()
        return self

    def close(self) -> None:
        """Stop serving and end all connections."""
        self._closing.set()
        self._server.shutdown()
        self._server.server_close()
        self._thread.join()

    def __enter__(self) -> Self:
        return self.start()

    def __exit__(self, *_: object) -> None:
        self.close()

    def _serve(self, handler: socketserver.BaseRequestHandler) -> None:
        if not self._slots.acquire(blocking=False):
            return
        session = Session()
        try:
            while not self._closing.is_set():
                arrived, _, _ = select.select([handler.request], [], [], _POLL_S)
                data = handler.request.recv(65536) if arrived else b""
                if arrived and not data:
                    break
                with self.lock:
                    answer = receive(self.board, session, data) if data else poll(self.board, session)
                if answer:
                    handler.request.sendall(answer)
        except OSError:
            pass  # the other end is gone, which is no fault of the board's
        finally:
            self._slots.release()
