"""What the annotations of a machine's fields say, in a form that is easy to follow: one shape for each field."""

from __future__ import annotations

import types
from collections.abc import Mapping
from typing import Annotated, Any, Literal, Union, get_args, get_origin

from msgspec import Struct, StructMeta
from msgspec.structs import fields, replace

from kivant.core.bounds import Bound
from kivant.core.fields import Form, NullIsWritten, Tagged
from kivant.core.kept import kept


class Shape(Struct, frozen=True, dict=True):
    """What a value may be.

    Parameters
    ----------
    type : type
        Its class: a number, text, a part of a machine, `tuple` or `Mapping`.
    optional : bool
        Whether it may be None.
    marks : tuple
        Bounds and forms, in the order in which they are written.
    choices : tuple of str
        All values there are, for a word; empty for anything else.
    item, key : Shape or None
        What a list or mapping holds, and its keys.
    required : bool
        Whether there is no part without the field.
    """

    type: Any
    optional: bool = False
    marks: tuple[Any, ...] = ()
    choices: tuple[str, ...] = ()
    item: Shape | None = None
    key: Shape | None = None
    required: bool = False

    def mark(self, kind: type) -> Any:
        """Return the mark of a class, None if there is none."""
        return next((mark for mark in self.marks if isinstance(mark, kind)), None)

    @kept
    def form(self) -> Form | None:
        """How the value is written in a file, if otherwise than it is."""
        found: Form | None = self.mark(Form)
        return found

    @kept
    def tagged(self) -> Tagged | None:
        """The table of kinds of which the value is one."""
        found: Tagged | None = self.mark(Tagged)
        return found

    @kept
    def null_is_written(self) -> bool:
        """Whether None is written as null and not left out."""
        return self.mark(NullIsWritten) is not None

    @kept
    def bounds(self) -> tuple[Any, ...]:
        """The bounds of a number, or of the length of a text or list."""
        return tuple(mark for mark in self.marks if isinstance(mark, Bound))

    @kept
    def is_single(self) -> bool:
        """Whether the value is a number or text, and nothing that holds others."""
        return self.tagged is None and self.item is None and not self.is_part

    @kept
    def is_part(self) -> bool:
        """Whether the value is a part of one class."""
        return self.tagged is None and isinstance(self.type, StructMeta)

    def part_of(self, value: Any) -> type | None:
        """Return the class of part that a value (or a parsed object) is to be, None if none."""
        if self.tagged is not None:
            tag = self.tagged.tag
            name = value.get(tag) if isinstance(value, dict) else getattr(value, tag, None)
            kind = self.tagged.kinds.get(name) if isinstance(name, str) else None
            return kind.type if kind else None
        return self.type if self.is_part and not (self.choices and isinstance(value, str)) else None


def _shape(annotation: Any) -> Shape:
    marks: tuple[Any, ...] = ()
    if get_origin(annotation) is Annotated:
        annotation, *metadata = get_args(annotation)
        marks = tuple(metadata)
    if get_origin(annotation) in (Union, types.UnionType):
        parts = [_shape(part) for part in get_args(annotation) if part is not type(None)]
        optional = len(parts) < len(get_args(annotation))
        choices = next((part.choices for part in parts if part.choices), ())
        inner = next((part for part in parts if not part.choices), parts[0])  # a word, or a part of a machine
        return Shape(inner.type, optional, (*inner.marks, *marks), choices, inner.item, inner.key)
    origin, arguments = get_origin(annotation), get_args(annotation)
    if origin is Literal:
        return Shape(str, marks=marks, choices=arguments)
    if origin is tuple:
        return Shape(tuple, marks=marks, item=_shape(arguments[0]))
    if origin is Mapping or (isinstance(origin, type) and issubclass(origin, Mapping)):
        key, item = map(_shape, arguments)
        return Shape(Mapping, marks=marks, key=key, item=item)
    return Shape(annotation, marks=marks)


_SHAPES: dict[Any, dict[str, Shape]] = {}


def shapes(part: Any) -> dict[str, Shape]:
    """Return the shape of each field of a class of parts, by name, in the order of the format."""
    if part not in _SHAPES:
        _SHAPES[part] = _shapes(part)
    return _SHAPES[part]


def _shapes(part: Any) -> dict[str, Shape]:
    return {field.name: replace(_shape(field.type), required=field.required) for field in fields(part)}
