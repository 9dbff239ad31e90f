"""Whether nothing at all is wrong with the fields of a part: a quick look, made once for each class of parts.

It says of every value what `kivant.core.machine.single` says; where something is wrong, the check goes through the
fields again, and tells what.
"""

from __future__ import annotations

import math
import sys
from collections.abc import Callable
from functools import lru_cache
from typing import Any

from kivant.core.bounds import Ge, Le, MaxLen
from kivant.core.fields import POSITION, REAL
from kivant.core.machine.shape import Shape, shapes
from kivant.core.machine.single import misfit_of

Right = Callable[[Any], bool]
"""Tells whether nothing is wrong with a value."""

_SOUND: dict[type, Right] = {}
_KEY = "sound"
_KNOWN_TEXTS = 4096  # names come again and again
_LONGEST = 80  # characters of a text that is worth remembering


def sound(part: Any) -> bool:
    """Return whether nothing is wrong with any field of a part, nor with the parts in it; rules aside."""
    kind = type(part)
    if kind not in _SOUND:
        _SOUND[kind] = _part(kind)
    return _SOUND[kind](part)


def _part(kind: type) -> Right:
    fields = [(name, shape.optional, _value(shape)) for name, shape in shapes(kind).items() if name != "x"]

    def right(part: Any) -> bool:
        for name, optional, fits in fields:
            value = getattr(part, name)
            if not (value is None and optional) and not fits(value):
                return False
        return True

    return _remembering(right) if kind.__dictoffset__ else right


def _remembering(right: Right) -> Right:
    """Return what tells the same of parts that remember that nothing is wrong with them: they cannot change."""

    def remembered(part: Any) -> bool:
        known: dict[str, Any] = part.__dict__
        if _KEY in known:
            return True
        if right(part):
            known[_KEY] = True
        return _KEY in known

    return remembered


def _value(shape: Shape) -> Right:
    if shape.item is not None:
        return _collection(shape, shape.item)
    if shape.is_single:
        return _single(shape)
    if shape.is_part and not shape.choices:
        return lambda value: isinstance(value, shape.type) and sound(value)

    def right(value: Any) -> bool:  # one of several kinds: the table of them is looked at each time
        part = shape.part_of(value)
        if part is None:
            return shape.tagged is None and misfit_of(value, shape) is None
        return isinstance(value, part) and sound(value)

    return right


def _collection(shape: Shape, item: Shape) -> Right:
    most, inner = shape.mark(MaxLen), _value(item)
    longest = math.inf if most is None else most.bound
    key = None if shape.key is None else _single(shape.key)

    def right(value: Any) -> bool:
        if not isinstance(value, shape.type) or len(value) > longest:
            return False
        if key is None:
            return all(map(inner, value))
        return all(map(key, value)) and all(map(inner, value.values()))

    return right


def _single(shape: Shape) -> Right:
    if shape.choices:
        return shape.choices.__contains__

    def right(value: Any) -> bool:
        return misfit_of(value, shape) is None

    if shape.type is str:
        return _text(right)
    if shape.type is float and shape.form is REAL:
        return _real(shape, right)
    return _position if shape.form is POSITION else right


def _text(right: Right) -> Right:
    known = lru_cache(_KNOWN_TEXTS)(right)
    return lambda value: known(value) if type(value) is str and len(value) <= _LONGEST else right(value)


def _real(shape: Shape, right: Right) -> Right:
    low, high = -sys.float_info.max, sys.float_info.max
    for mark in shape.bounds:
        if isinstance(mark, Le):
            high = min(high, mark.bound)
        else:
            low = max(low, mark.bound if isinstance(mark, Ge) else math.nextafter(mark.bound, math.inf))
    return lambda value: low <= value <= high if type(value) is float else right(value)


def _position(value: Any) -> bool:
    try:
        POSITION.read(value)
    except ValueError:
        return False
    return True
