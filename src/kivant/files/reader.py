"""The reader: parsed JSON made into the parts of a machine, by the shapes of their fields.

What is wrong is told with its place, in the order of the format, up to a number that nobody reads any more.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, TypeVar, cast

from kivant.core.bounds import MaxLen
from kivant.core.errors import MOST_FAULTS, Fault
from kivant.core.fields import Part, expected
from kivant.core.machine.check import found_text, misfit
from kivant.core.machine.shape import Shape, shapes
from kivant.core.machine.single import choice_words, out_of_range
from kivant.core.path import Path

_AnyPart = TypeVar("_AnyPart", bound=Part)

_OBJECT, _LIST = expected("mapping_type"), expected("tuple_type")


class _EnoughError(Exception):
    """There are more faults than are told."""


def read_part(part: type[_AnyPart], document: Any) -> tuple[_AnyPart | None, list[Fault]]:
    """Return the part that a parsed document (dicts, lists, numbers as int or Decimal) stands for, and all faults.

    There is a part only where there is no fault.
    """
    reader = _Reader()
    try:
        found = reader.part(part, document)
    except _EnoughError:
        found = None
    return (None, reader.faults) if reader.faults else (cast(_AnyPart, found), [])


class _Reader:
    """Goes through a document; `place` are the keys down to where it is."""

    def __init__(self) -> None:
        self.place: list[str | int] = []
        self.faults: list[Fault] = []

    def part(self, part: type[Part], document: Any) -> Any:
        if not isinstance(document, Mapping):
            return self._refuse(_OBJECT, document)
        before, own, found = len(self.faults), shapes(part), {}
        for name, shape in own.items():
            if name in document:
                found[name] = self._at(name, document[name], shape)
            elif shape.required:
                self._tell(name, f"The key “{name}” is missing.", "Add it; docs/file-format.md lists all keys.")
        for name in [key for key in document if key not in own] if len(document) > len(found) else ():
            self._tell(name, f"The key “{name}” is unknown.", "Check its spelling, or keep your own data under “x”.")
        return part(**found) if len(self.faults) == before else None

    def _at(self, key: str | int, value: Any, shape: Shape) -> Any:
        self.place.append(key)
        found = self._value(value, shape)
        self.place.pop()
        return found

    def _value(self, value: Any, shape: Shape) -> Any:
        if value is None and shape.optional:
            return None
        if shape.is_single:
            return self._single(value, shape)
        if shape.tagged is not None:
            return self._tagged(value, shape)
        if shape.is_part:
            word = shape.choices and not isinstance(value, Mapping)
            return self._single(value, shape) if word else self.part(shape.type, value)
        if shape.key is not None:
            return self._mapping(value, shape)
        return self._list(value, shape)

    def _tagged(self, value: Any, shape: Shape) -> Any:
        part, tagged = shape.part_of(value), shape.tagged
        assert tagged is not None
        if part is not None:
            return self.part(part, value)
        if not isinstance(value, Mapping):
            return self._refuse(_OBJECT, value)
        if tagged.tag in value:
            return self._refuse(", ".join(map(repr, tagged.kinds)), value)
        message = f"Expected an object with the key “{tagged.tag}”, found {found_text(value)}."
        return self._tell(None, message, f"Add “{tagged.tag}”.")

    def _mapping(self, value: Any, shape: Shape) -> Any:
        if not isinstance(value, Mapping):
            return self._refuse(_OBJECT, value)
        assert shape.key is not None and shape.item is not None
        if shape.item.type is Any:
            return value
        return {self._at(k, k, shape.key): self._at(k, inner, shape.item) for k, inner in value.items()}

    def _list(self, value: Any, shape: Shape) -> Any:
        if not isinstance(value, list):
            return self._refuse(_LIST, value)
        assert shape.item is not None
        most = shape.mark(MaxLen)
        if most is not None and len(value) > most.bound:
            return self._refuse(expected("too_long", max_length=most.bound), value)
        return tuple([self._at(index, inner, shape.item) for index, inner in enumerate(value)])

    def _single(self, value: Any, shape: Shape) -> Any:
        if shape.choices:
            fits = isinstance(value, str) and value in shape.choices
            return value if fits else self._refuse(choice_words(shape), value)
        form, read = shape.form, value
        if form is not None:
            try:
                read = form.read(value)
            except ValueError as error:
                return self._refuse(str(error).removeprefix("expected "), value)
            if form.schema is not None:
                return read
        said = out_of_range(read, shape)
        return read if said is None else self._refuse(said, value)

    def _refuse(self, said: str, value: Any) -> Any:
        self._add(misfit(Path(self.place), said, value))

    def _tell(self, key: str | None, message: str, remedy: str) -> Any:
        self._add(Fault(Path(self.place if key is None else (*self.place, key)), message, remedy))

    def _add(self, fault: Fault) -> None:
        self.faults.append(fault)
        if len(self.faults) > MOST_FAULTS:
            raise _EnoughError
