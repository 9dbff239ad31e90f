"""The stand-in on a TCP port of the loopback address: one thread a connection, one board for all."""

from __future__ import annotations

import contextlib
import select
import socket
import socketserver
import threading
import time
from collections.abc import Callable, Mapping
from typing import Self

from kivant.board.standin.clock import SteadyClock
from kivant.board.standin.device import Session, StandIn
from kivant.board.standin.dialogue import is_ready, take, work
from kivant.core.travel.mechanics import Pointer

LOOPBACK = "127.0.0.1"
_POLL_S = 0.02
_PIECE, _BIT = 1 << 12, 1 << 8  # bytes that are received, and taken, at a time
_MOST_CONNECTIONS = 16
_IDLE_S = 600.0  # a connection that says nothing for so long is closed, but for the one whose motion is played
_SEND_S = 5.0  # for taking an answer
_LONG_S = 0.001


class _Share:
    """A thread's share of the time: however many have much to do, half of it is left to those with little."""

    def __init__(self, closing: threading.Event, others: Callable[[], int]) -> None:
        self._closing, self._others, self._since_s = closing, others, time.thread_time()

    def waited(self, seconds: float) -> None:
        """Count time in which there was nothing to do as a rest."""
        self._since_s = min(self._since_s + seconds, time.thread_time())

    def leave(self) -> None:
        """Rest, if this thread has worked for long since it rested last: twice as long for each other connection."""
        busy_s = time.thread_time() - self._since_s
        if busy_s >= _LONG_S:
            self._closing.wait(2 * busy_s * self._others())
            self._since_s = time.thread_time()


class BoardServer:
    """A stand-in board that serves in the background from `start` (or ``with``) until `close`.

    Parameters
    ----------
    port : int
        0 takes any free one; ``address`` tells which.
    clock : callable or None
        Seconds; a faster one makes the board live faster. None: a `SteadyClock`.
    pointers : mapping of str to Pointer or None
        At the tools of axes, by their names.

    Raises
    ------
    OSError
        If the port cannot be opened.
    """

    def __init__(
        self,
        port: int = 0,
        clock: Callable[[], float] | None = None,
        pointers: Mapping[str, Pointer] | None = None,
    ) -> None:
        self.board = StandIn(clock or SteadyClock(), pointers=pointers)
        self.lock = threading.Lock()
        self._closing = threading.Event()
        self._open: dict[Session, socket.socket] = {}
        outer = self

        class Handler(socketserver.BaseRequestHandler):
            def handle(self) -> None:
                outer._serve(self)

        class Server(socketserver.ThreadingTCPServer):
            allow_reuse_address = True
            request_queue_size = _MOST_CONNECTIONS
            daemon_threads = True

            def service_actions(self) -> None:
                outer._live()  # with nobody connected, too

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

    def _live(self) -> None:
        behind = True
        while behind and not self._closing.is_set():
            with self.lock:
                self.board.advance()
                behind = self.board.behind

    def _serve(self, handler: socketserver.BaseRequestHandler) -> None:
        session, connection = Session(), handler.request
        connection.settimeout(_SEND_S)
        with self.lock:
            self._make_room()
            session.heard_s = self.board.now_s
            self._open[session] = connection
        share = _Share(self._closing, lambda: len(self._open) - 1)
        try:
            while not self._closing.is_set() and self._turn(session, connection, share):
                pass
        except OSError:
            pass  # the other end is gone or takes no answers, which is no fault of the board's
        finally:
            with self.lock:
                self._open.pop(session, None)

    def _turn(self, session: Session, connection: socket.socket, share: _Share) -> bool:
        """Hear a piece, work on all that can be done, and answer; return whether the connection goes on."""
        begun_s = time.monotonic()
        arrived, _, _ = select.select([connection], [], [], _POLL_S)
        share.waited(time.monotonic() - begun_s)
        data = connection.recv(_PIECE) if arrived else b""
        if arrived and not data:
            return False
        for at in range(0, max(len(data), 1), _BIT):
            take(session, data[at : at + _BIT])
            share.leave()
            self._work(session, connection, share)
        return session is self.board.owner or self.board.now_s - session.heard_s <= _IDLE_S

    def _work(self, session: Session, connection: socket.socket, share: _Share) -> None:
        """Work on all that can be done, and answer."""
        more = True
        while more and not self._closing.is_set():
            with self.lock:
                answer = work(self.board, session)
                more = is_ready(self.board, session)
            if answer:
                connection.sendall(answer)
            share.leave()

    def _make_room(self) -> None:
        """Close the connection that has said nothing sensible for the longest time, where there are too many."""
        others = [session for session in self._open if session is not self.board.owner]
        if len(self._open) >= _MOST_CONNECTIONS:
            longest = min(others, key=lambda session: session.heard_s)
            with contextlib.suppress(OSError):
                self._open.pop(longest).shutdown(socket.SHUT_RDWR)
