"""Kept properties: worked out when they are first asked for, and then found with their object."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Generic, TypeVar, overload

_Value = TypeVar("_Value")


class kept(Generic[_Value]):  # noqa: N801 - it reads like property
    """A property of an object that cannot change; the object needs a ``__dict__``.

    Up to Python 3.11 that of the standard library lets one thread at a time work out a property, whatever object it is
    of: a window that asks a small plan would wait for what is worked out of a long one. Here nobody waits, and at worst
    two threads work out the same.
    """

    def __init__(self, make: Callable[[Any], _Value]) -> None:
        self._make, self.__doc__ = make, make.__doc__

    def __set_name__(self, owner: type, name: str) -> None:
        self._name = name

    @overload
    def __get__(self, owner: None, kind: type) -> kept[_Value]: ...

    @overload
    def __get__(self, owner: object, kind: type) -> _Value: ...

    def __get__(self, owner: object | None, kind: type) -> kept[_Value] | _Value:
        if owner is None:
            return self
        found = owner.__dict__[self._name] = self._make(owner)
        return found
