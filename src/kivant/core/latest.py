"""The latest results: what was worked out is found again, as long as not too much else was worked out since."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

_Result = TypeVar("_Result")


class Latest(Generic[_Result]):
    """So many results, none of them None, by what they are of.

    Unlike a cache around a function, it lets the work be told when to rest or to end. Any thread may ask: whatever is
    done to the mapping is a single step of it, and at worst two threads make the same result.
    """

    def __init__(self, most: int) -> None:
        self._most, self._found = most, dict[Hashable, _Result]()

    def of(self, key: Hashable, make: Callable[[], _Result]) -> _Result:
        """Return the result of a key; one that is not known is made, and what that raises is not kept."""
        found = self._found.pop(key, None)
        if found is None:
            found = make()
        self._found[key] = found  # the latest stands last
        if len(self._found) > self._most:
            for oldest in list(self._found)[: -self._most]:
                self._found.pop(oldest, None)
        return found
