"""Single values: what a number, a text or a word may be by its shape, and what was expected where it is none."""

from __future__ import annotations

import math
from collections.abc import Callable
from decimal import Decimal
from typing import Any

from kivant.core.bounds import Ge, Gt, Le, MaxLen, MinLen
from kivant.core.fields import POSITION, expected
from kivant.core.machine.shape import Shape

_TYPES: dict[type, tuple[tuple[type, ...], str]] = {
    float: ((float, int), "a number"),
    int: ((int,), "a whole number"),
    str: ((str,), "text in quotes"),
    bool: ((bool,), "true or false"),
    Decimal: ((Decimal,), "an exact decimal number"),
    type(None): ((type(None),), "null"),
}


def misfit_of(value: Any, shape: Shape) -> str | None:
    """Return what was expected of a single value, None if it is right."""
    if shape.choices:
        return None if value in shape.choices else choice_words(shape)
    types, wanted = _TYPES[shape.type]
    form = shape.form
    if form is not None:
        try:
            value_read = form.read(value) if isinstance(value, types) or form.schema is not None else value
        except ValueError as error:
            return str(error).removeprefix("expected ")
        if form.schema is not None:
            return None if isinstance(value, types) or form is POSITION else wanted
        value = value_read
    return out_of_range(value, shape)


def choice_words(shape: Shape) -> str:
    """Return what was expected of a word: ``'a', 'b' or 'c'``."""
    *others, last = [*map(repr, shape.choices), *(["an object in braces"] if shape.is_part else [])]
    return f"{', '.join(others)} or {last}" if others else last


def out_of_range(value: Any, shape: Shape) -> str | None:
    """Return what was expected of a number or text by its type and bounds, None if it is right."""
    types, wanted = _TYPES[shape.type]
    if not isinstance(value, types) or (isinstance(value, bool) and bool not in types):
        return wanted
    if isinstance(value, float) and not math.isfinite(value):
        return expected("finite_number")
    for mark in shape.bounds:
        within, words = _BOUNDS[type(mark)]
        if not within(value, mark):
            return words(mark)
    return None


_BOUNDS: dict[type, tuple[Callable[[Any, Any], bool], Callable[[Any], str]]] = {
    Gt: (lambda value, mark: value > mark.bound, lambda mark: expected("greater_than", gt=mark.bound)),
    Ge: (lambda value, mark: value >= mark.bound, lambda mark: expected("greater_than_equal", ge=mark.bound)),
    Le: (lambda value, mark: value <= mark.bound, lambda mark: expected("less_than_equal", le=mark.bound)),
    MinLen: (lambda value, mark: len(value) >= mark.bound, lambda _mark: expected("string_too_short")),
    MaxLen: (
        lambda value, mark: len(value) <= mark.bound,
        lambda mark: expected("string_too_long", max_length=mark.bound),
    ),
}
