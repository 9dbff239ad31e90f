"""Events: who wants to know of a change is called when it comes."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any


class Event:
    """Something that happens; calling it tells everybody who is connected, in the order in which they came."""

    __slots__ = ("_listeners",)

    def __init__(self) -> None:
        self._listeners: list[Callable[..., object]] = []

    def connect(self, listener: Callable[..., object]) -> None:
        """Have `listener` called from now on."""
        self._listeners.append(listener)

    def __call__(self, *told: Any) -> None:
        """Tell everybody."""
        for listener in tuple(self._listeners):
            listener(*told)
