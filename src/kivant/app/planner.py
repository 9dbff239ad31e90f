"""Checking and planning off the interface thread: only the newest wish counts, older ones are dropped."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass

from kivant.core.errors import KivantError
from kivant.core.findings import Finding, routine_findings
from kivant.core.machine import Machine, Routine
from kivant.core.plan import Plan, plan

_WORK_S, _REST_S = 1e-3, 1e-4  # it works so long, then rests so long


@dataclass(frozen=True, slots=True)
class Wish:
    """A plan that is wanted; ``number`` counts up."""

    number: int
    machine: Machine
    routine: Routine


class _SupersededError(Exception):
    pass


Deliver = Callable[[Wish, Plan | KivantError], None]
Tell = Callable[[Wish, tuple[Finding, ...]], None]


class Planner:
    """One background thread that makes the newest wished plan and hands it to `deliver`, on that thread.

    Before it, `tell` gets the findings of all the machine's routines, where they were not told already.

    The interpreter lets one thread work at a time, and a window that paints would wait for its turn at every line it
    draws. So the planner rests a moment now and then, and all the while somebody is `hurrying`.
    """

    def __init__(self, deliver: Deliver, tell: Tell = lambda _wish, _findings: None) -> None:
        self._deliver, self._tell = deliver, tell
        self._hurrying = False
        self._checked: Machine | None = None
        self._changed = threading.Condition()
        self._wish: Wish | None = None
        self._number = 0
        self._closed = False
        self._thread = threading.Thread(target=self._work, name="planner", daemon=True)
        self._thread.start()

    def wish(self, machine: Machine, routine: Routine) -> int:
        """Ask for a plan; return the wish's number."""
        with self._changed:
            self._number += 1
            self._wish = Wish(self._number, machine, routine)
            self._changed.notify()
            return self._number

    @contextmanager
    def hurrying(self) -> Iterator[None]:
        """Have the planner rest while something else is done on one thread."""
        self._hurrying = True
        try:
            yield
        finally:
            self._hurrying = False

    def close(self) -> None:
        """End the thread; what it is working on is dropped."""
        with self._changed:
            self._closed = True
            self._number += 1
            self._changed.notify()
        self._thread.join()

    def _work(self) -> None:
        while True:
            with self._changed:
                self._changed.wait_for(lambda: self._wish is not None or self._closed)
                wish, self._wish = self._wish, None
            if self._closed or wish is None:
                return
            self._fulfil(wish)

    def _fulfil(self, wish: Wish) -> None:
        worked_to = time.monotonic() + _WORK_S

        def checkpoint() -> None:
            nonlocal worked_to
            while wish.number == self._number:
                if not self._hurrying and time.monotonic() <= worked_to:
                    return
                time.sleep(_REST_S)
                worked_to = time.monotonic() + _WORK_S
            raise _SupersededError

        result: Plan | KivantError
        try:
            if wish.machine is not self._checked:
                self._tell(wish, routine_findings(wish.machine, checkpoint))
                self._checked = wish.machine
            result = plan(wish.machine, wish.routine, checkpoint=checkpoint)
        except _SupersededError:
            return
        except KivantError as error:
            result = error
        if wish.number == self._number:
            self._deliver(wish, result)
