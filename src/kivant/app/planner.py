"""Planning off the interface thread: only the newest wish counts, older ones are dropped."""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import dataclass

from kivant.core.errors import KivantError
from kivant.core.machine import Machine, Routine
from kivant.core.plan import Plan, plan


@dataclass(frozen=True, slots=True)
class Wish:
    """A plan that is wanted; ``number`` counts up."""

    number: int
    machine: Machine
    routine: Routine


class _SupersededError(Exception):
    pass


Deliver = Callable[[Wish, Plan | KivantError], None]


class Planner:
    """One background thread that makes the newest wished plan and hands it to `deliver`, on that thread."""

    def __init__(self, deliver: Deliver) -> None:
        self._deliver = deliver
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
        def checkpoint() -> None:
            if wish.number != self._number:
                raise _SupersededError

        result: Plan | KivantError
        try:
            result = plan(wish.machine, wish.routine, checkpoint=checkpoint)
        except _SupersededError:
            return
        except KivantError as error:
            result = error
        if wish.number == self._number:
            self._deliver(wish, result)
