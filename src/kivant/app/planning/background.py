"""Computing off the interface thread: of each kind of work only the newest wish counts, older ones are dropped."""

from __future__ import annotations

import sys
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import AbstractContextManager, contextmanager
from typing import Any

from msgspec import Struct

from kivant.app.internal_error import InternalError
from kivant.core.errors import KivantError

_WORK_S, _REST_S = 1e-3, 1e-4  # it works so long, then rests so long
_CALM_S = 0.15

Checkpoint = Callable[[], None]


class Wish(Struct, frozen=True):
    """Work that is wanted: `work` gets a checkpoint to call now and then, `deliver` what it returned.

    Where it raises an error, `failed` gets that: one of Kivant's own as an `InternalError`.
    """

    number: int
    key: str
    work: Callable[[Checkpoint], Any]
    deliver: Callable[[Any], None]
    failed: Callable[[KivantError], None]


class SupersededError(Exception):
    """The work is not wanted any more; a checkpoint raises it."""


class Calm:
    """Whether nobody hurries: while somebody does, whatever is worked out in the background rests.

    The interpreter lets one thread work at a time, and a window that paints would wait for its turn at every line it
    draws.
    """

    def __init__(self) -> None:
        self._hurries = 0  # one may lie within the other
        self._calm = threading.Event()
        self._calm.set()

    @property
    def is_calm(self) -> bool:
        """Whether nobody hurries."""
        return self._calm.is_set()

    @contextmanager
    def hurrying(self) -> Iterator[None]:
        """Have all work rest while something else is done on one thread."""
        self._hurries += 1
        self._calm.clear()
        try:
            yield
        finally:
            self._hurries -= 1
            if not self._hurries:
                self._calm.set()

    def wait(self) -> bool:
        """Wait while somebody hurries; return whether somebody did."""
        if self.is_calm:
            return False
        self._calm.wait()  # without waking now and then, which would take the interpreter from who hurries
        return True

    def end(self) -> None:
        """Let all that waits go on."""
        self._calm.set()


class Background:
    """One thread that does the newest wish of each key, the longest waiting key first, and delivers on that thread.

    The work rests a moment now and then, and all the while there is no `calm`.
    """

    def __init__(self, calm: Calm) -> None:
        self._calm = calm
        self._changed = threading.Condition()
        self._waiting: dict[str, Wish] = {}
        self._newest: dict[str, int] = {}
        self._number = 0
        self._closed = False
        self._thread = threading.Thread(target=self._run, name="planner", daemon=True)
        self._thread.start()

    def wish(
        self,
        key: str,
        work: Callable[[Checkpoint], Any],
        deliver: Callable[[Any], None],
        failed: Callable[[KivantError], None],
    ) -> None:
        """Ask for some work; what was asked for under the same key before is dropped."""
        with self._changed:
            self._number += 1
            self._newest[key] = self._number
            self._waiting[key] = Wish(self._number, key, work, deliver, failed)
            self._changed.notify()

    def drop(self, key: str) -> None:
        """Drop what was asked for under a key."""
        with self._changed:
            self._waiting.pop(key, None)
            self._newest.pop(key, None)

    def await_soon(self, done: threading.Event, seconds: float) -> AbstractContextManager[None]:
        """Wait for something that is worked out, s at the most; return a context in which all work rests."""
        if self._calm.is_calm:  # else it rests
            done.wait(seconds)
        return self._calm.hurrying()

    def close(self) -> None:
        """End the thread; what it is working on is dropped."""
        with self._changed:
            self._closed = True
            self._waiting.clear()
            self._newest.clear()
            self._changed.notify()
        self._calm.end()
        self._thread.join()

    def _run(self) -> None:
        while True:
            with self._changed:
                self._changed.wait_for(lambda: self._waiting or self._closed)
                if self._closed:
                    return
                wish = self._waiting.pop(next(iter(self._waiting)))
            self._fulfil(wish)

    def _fulfil(self, wish: Wish) -> None:
        worked_to = time.monotonic() + _WORK_S

        def wanted() -> bool:
            return self._newest.get(wish.key) == wish.number

        def checkpoint() -> None:
            nonlocal worked_to
            if self._calm.wait():
                worked_to = time.monotonic() + _WORK_S
            elif time.monotonic() > worked_to:
                time.sleep(_REST_S)
                worked_to = time.monotonic() + _WORK_S
            if not wanted():
                raise SupersededError

        try:
            try:
                result, take = wish.work(checkpoint), wish.deliver
            except KivantError as error:
                result, take = error, wish.failed
            except SupersededError:
                return
            except Exception as error:  # told, and whoever waits learns of it
                _tell()
                result, take = InternalError(error), wish.failed
            if wanted():
                take(result)
        except Exception:  # what is wished next is worked on all the same
            _tell()


def _tell() -> None:
    threading.excepthook(threading.ExceptHookArgs((*sys.exc_info(), threading.current_thread())))


def wait_for_calm(checkpoint: Checkpoint, seconds: float = _CALM_S) -> None:
    """Wait until nothing else has been wished for a moment: while a hand drags, nothing is worked out in vain."""
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        checkpoint()
        time.sleep(seconds / 20)
