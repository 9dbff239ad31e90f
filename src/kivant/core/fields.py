"""What holds for a field of a machine: its range, its form in text, its unit and meaning, said once at the field.

The classes of a machine carry these as `typing.Annotated` metadata, beside their `kivant.core.bounds`. The check of the
core (`kivant.core.machine.check`), the reader of project files and the JSON Schema are derived from them, by way of
`kivant.core.machine.shape`.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Mapping
from decimal import Decimal
from typing import Annotated, Any, Literal

from msgspec import Struct

from kivant.core.bounds import Ge, Gt, Le, MaxLen, MinLen

Level = Literal["high", "low"]

_DECIMAL_TEXT = re.compile(r"\d{1,12}(\.\d{1,12})?")
_RATIO_TEXT = re.compile(r"(?!0+(\.0*)?$)(\d{1,12}(\.\d{1,12})?|0*[1-9]\d{0,11}/0*[1-9]\d{0,11})")
_LARGEST_EXPONENT, _SMALLEST_EXPONENT = 15, -30
MOST_DIGITS = 40
"""Digits of a position in a project file."""
EXACT_DIGITS = 200
"""Digits in which sums and products of positions are exact, all of them between 1e15 and 1e-60."""


class Part(Struct, frozen=True, kw_only=True):
    """A part of a machine: immutable data that a project file can hold. Every object of a file is one.

    What several kinds of parts have in common is declared to type checkers by their base, and is a field of each kind:
    so every kind has its own range, and its own order in a file.
    """


class About(Struct, frozen=True):
    """What a field means, and the unit of its value; both reach the schema and the window."""

    text: str
    unit: str = ""


class Form(Struct, frozen=True, eq=False):
    """How a value is written in a file.

    Parameters
    ----------
    read : callable
        Turns a parsed value (or the field's own value) into the field's value; raises ValueError with what was
        expected.
    schema : mapping, optional
        The JSON Schema of what is written; that of the field's type if None.
    write : callable, optional
        Turns the field's value into what is written; None: it is written as it is.
    """

    read: Callable[[Any], Any]
    schema: Mapping[str, Any] | None = None
    write: Callable[[Any], Any] | None = None


class Tagged(Struct, frozen=True, eq=False):
    """A field that holds one of several kinds of parts, told apart by the key `tag`; `kinds` is their table.

    The table is looked at when it is needed, not when the field is defined: a kind that is added to it is read,
    checked and written like the others.
    """

    tag: str
    kinds: Mapping[str, Any]


class NullIsWritten(Struct, frozen=True):
    """None is written as ``null``; without this mark, a key that holds None is left out."""


NULL_IS_WRITTEN = NullIsWritten()


def _real(value: Any) -> Any:
    if not isinstance(value, Decimal | int) or isinstance(value, bool):
        return value
    try:
        return float(value)
    except OverflowError:  # a whole number of hundreds of digits
        return math.inf


def _whole(value: Any) -> Any:
    return value


def _position(value: Any) -> Decimal:
    if isinstance(value, int) and not isinstance(value, bool):
        value = Decimal(value)
    if not isinstance(value, Decimal):
        raise ValueError("expected a number")
    if not value.is_finite() or (value and not _SMALLEST_EXPONENT <= value.adjusted() < _LARGEST_EXPONENT):
        raise ValueError("expected a position between -1e15 and 1e15, with its first digit above 1e-30")
    # Text as short as that cannot hold more digits, and is made faster than they are counted.
    if len(str(value)) > MOST_DIGITS and len(value.as_tuple().digits) > MOST_DIGITS:
        raise ValueError(f"expected at most {MOST_DIGITS} digits")
    return value


def _number_text(value: Any) -> Any:
    if isinstance(value, Decimal) and abs(value.adjusted()) < MOST_DIGITS:
        return f"{value:f}"
    return str(value) if isinstance(value, int) and not isinstance(value, bool) else value


def _decimal_text(value: Any) -> Decimal:
    text = _number_text(value)
    if not isinstance(text, str) or not _DECIMAL_TEXT.fullmatch(text) or not Decimal(text):
        raise ValueError('expected a positive decimal number as text, such as "8" or "2.032"')
    return Decimal(text)


def _ratio_text(value: Any) -> str:
    text = _number_text(value)
    if not isinstance(text, str) or not _RATIO_TEXT.fullmatch(text):
        raise ValueError('expected a positive ratio as text, such as "13.73" or "1024/75"')
    return text


def _order(value: Any) -> str:
    if not isinstance(value, str) or sorted(value) != ["A", "B", "C", "D"]:
        raise ValueError('expected the ends A, B, C, D in the order of the outputs, such as "ACBD"')
    return value


def _plain_text(value: Any) -> Any:
    if isinstance(value, str) and (not value.isprintable() or value != value.strip()):
        raise ValueError("expected text without line breaks or spaces at its ends")
    return value


def _text_or_number(pattern: re.Pattern[str]) -> dict[str, Any]:
    return {"anyOf": [{"type": "string", "pattern": f"^{pattern.pattern}$"}, {"type": "integer", "minimum": 1}]}


REAL = Form(_real)
WHOLE = Form(_whole)
POSITION = Form(_position, {"type": "number", "exclusiveMinimum": -1e15, "exclusiveMaximum": 1e15})

# A form stands last, so that it reads what the bounds before it are then compared with.
Positive = Annotated[float, Gt(0), Le(1e12), REAL]
Rate = Annotated[float, Ge(1e-9), Le(1e12), REAL]
NotNegative = Annotated[float, Ge(0), Le(1e12), REAL]
Microseconds = Annotated[float, Ge(0), Le(1e7), REAL]
PulseTime = Annotated[float, Gt(0), Le(1e6), REAL]
Percent = Annotated[float, Gt(0), Le(100), REAL]
Factor = Annotated[float, Ge(1e-6), Le(1), REAL]
Seconds = Annotated[float, Ge(0), Le(1e7), REAL]
Count = Annotated[int, Ge(1), Le(1_000_000), WHOLE]
Exact = Annotated[Decimal, POSITION]
DecimalText = Annotated[Decimal, Form(_decimal_text, _text_or_number(_DECIMAL_TEXT), lambda value: f"{value:f}")]
RatioText = Annotated[str, Form(_ratio_text, _text_or_number(_RATIO_TEXT))]
Order = Annotated[str, Form(_order, {"type": "string", "pattern": "^[ABCD]{4}$"})]
Name = Annotated[str, MinLen(1), MaxLen(80), Form(_plain_text)]
Title = Annotated[str, MaxLen(200)]
Positions = Mapping[Name, Exact]  # by axis name, in axis units
Extra = Annotated[Mapping[str, Any] | None, About("Data of other programs: kept, never read")]

EXPECTED: Mapping[str, str] = {
    "finite_number": "a finite number",
    "mapping_type": "an object in braces",
    "tuple_type": "a list in brackets",
    "greater_than": "a number above {gt}",
    "greater_than_equal": "a number of at least {ge}",
    "less_than_equal": "a number of at most {le}",
    "string_too_short": "a name that is not empty",
    "string_too_long": "at most {max_length} characters",
    "too_long": "at most {max_length} entries",
}
"""What was expected where something else was found: the rest of the sentence, by the name of what is wrong."""


def expected(kind: str, **context: Any) -> str:
    """Return what was expected, as the rest of a sentence; `context` are the bounds that it names."""
    template = EXPECTED[kind]
    if kind == "greater_than_equal" and 0 < context["ge"] < 1e-3:
        template = "a number above 0 (at least {ge})"
    figures = {name: f"{v:g}" if isinstance(v, float) else v for name, v in context.items()}
    return template.format(**figures)
