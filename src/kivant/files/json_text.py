"""JSON text to a parsed document and back: numbers by their own digits, and nothing that a file cannot hold.

Every text is untrusted. What is refused is told with its line and column, or with the key path of its fault.
"""

from __future__ import annotations

import json
import re
import sys
from collections import Counter
from collections.abc import Callable, Iterator
from decimal import Decimal, InvalidOperation
from itertools import islice
from typing import Any

from kivant.core.errors import MOST_FAULTS, Fault, KivantError, shown
from kivant.core.path import Path

MOST_BYTES = 64 * 1024 * 1024
MOST_VALUES = 1_000_000
MOST_DEPTH = 32

_TEXT = r'"[^"\\]*+(?:\\.[^"\\]*+)*+"'
_STRING = re.compile(rf"{_TEXT}(\s*+:)?")
_HOLDERS = (dict, list)


class ProjectError(KivantError):
    """A project file cannot be read; ``faults`` names each fault with its place."""


def project_error(faults: list[Fault]) -> ProjectError:
    """Return the error of so many faults; beyond `MOST_FAULTS` it says that there are more."""
    more = len(faults) - MOST_FAULTS
    told = faults[:MOST_FAULTS]
    if more > 0:
        told.append(Fault("", "There are more errors than these.", "Fix these first."))
    return ProjectError(*told)


def parse(data: bytes) -> Any:
    """Return the document in a text: dicts and lists, numbers as int or Decimal.

    Raises
    ------
    ProjectError
        If it is too large, no JSON, nested too deep, or has a key twice.
    """
    if len(data) > MOST_BYTES:
        message = f"The file is larger than {MOST_BYTES // 2**20} MB, more than any project needs."
        raise ProjectError(Fault("", message, "Choose a Kivant project file."))
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        line = data.count(b"\n", 0, error.start) + 1
        fault = Fault(f"line {line}", "The file is not UTF-8 text.", "Choose a Kivant project file.")
        raise ProjectError(fault) from None
    refuse_mass(text)
    document = _read(text)
    deep, keys = _weigh(document)
    if deep:
        raise _too_deep(text)
    # The reader of the standard library keeps the last of two keys, and is slower where it is asked to tell.
    if keys != sum(bool(found.group(1)) for found in _STRING.finditer(text)):
        document = None  # room for the other one
        raise project_error(list(islice(_doubled_keys(_read(text, _unique)), MOST_FAULTS + 1)))
    if "\\u" in text:  # only an escape can make half of a surrogate pair, which no file can hold again
        _refuse_half_characters(text, document)
    return document


def _read(text: str, object_hook: Callable[[list[tuple[str, Any]]], Any] | None = None) -> Any:
    try:
        return json.loads(text, parse_float=_decimal, parse_constant=_refuse_constant, object_pairs_hook=object_hook)
    except json.JSONDecodeError as error:
        place = f"line {error.lineno}, column {error.colno}"
        fault = Fault(place, f"This is not JSON: {error.msg}.", "The file may be cut off or damaged there.")
        raise ProjectError(fault) from None
    except RecursionError:
        raise _too_deep(text) from None
    except _UnreadableError as error:
        message = f"{shown(error.token)} {error.reason}."
        raise ProjectError(Fault(_line_of(text, re.escape(error.token)), message, "Write a finite number.")) from None
    except ValueError:  # Python reads no whole number of thousands of digits
        place = _line_of(text, rf"-?\d{{{sys.get_int_max_str_digits() + 1},}}")
        raise ProjectError(Fault(place, "The number has too many digits.", "Write a smaller number.")) from None


def refuse_mass(text: str) -> None:
    """Refuse what would take long to read, or more memory than six times the largest file.

    Raises
    ------
    ProjectError
        Naming the limit that is passed.
    """
    if sys.getsizeof(text) > 2 * MOST_BYTES:  # Python keeps each character of a text as wide as the widest
        message = f"The file is larger than {MOST_BYTES // 2**21} MB and has characters such as “{max(text)}”."
        raise ProjectError(Fault("", message, "Leave out those characters, or split the machine."))
    if sum(map(text.count, ",[{")) > MOST_VALUES:
        message = f"The file holds more than {MOST_VALUES} values, more than Kivant reads."
        raise ProjectError(Fault("", message, "Split the machine, or repeat blocks instead of writing them out."))


class _UnreadableError(ValueError):
    """A number that no decimal can hold, or none at all."""

    def __init__(self, token: str, reason: str) -> None:
        super().__init__(token)
        self.token, self.reason = token, reason


def _decimal(number: str) -> Decimal:
    try:
        return Decimal(number)
    except InvalidOperation:
        raise _UnreadableError(number, "cannot be read: it is too far from 1") from None


def _refuse_constant(name: str) -> Any:
    raise _UnreadableError(name, "is not a JSON number")


def _line_of(text: str, token: str) -> str:
    """Return the line of the first token of a pattern that stands in no string."""
    for found in re.finditer(rf"{_TEXT}|({token})(?![\w.+-])", text):
        if found.group(1):
            return f"line {text.count(chr(10), 0, found.start()) + 1}"
    return ""


class _DoubledKeys(dict[str, Any]):
    """An object in which a key stood twice; it only lives until that is reported."""

    doubled: tuple[str, ...]


def _unique(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    found = dict(pairs)
    if len(found) < len(pairs):
        found = _DoubledKeys(found)
        times = Counter(key for key, _ in pairs)
        found.doubled = tuple(islice((key for key, n in times.items() if n > 1), MOST_FAULTS + 1))
    return found


def _weigh(document: Any) -> tuple[bool, int]:
    """Return whether a document is nested too deep, and how many keys it holds, level by level."""
    level: list[Any] = [[document]]
    keys = 0
    for _ in range(MOST_DEPTH + 2):
        level = [v for c in level for v in (c.values() if type(c) is dict else c) if type(v) in _HOLDERS]
        keys += sum([len(c) for c in level if type(c) is dict])
    return bool(level), keys


def _doubled_keys(document: Any) -> Iterator[Fault]:
    """Yield a fault for each key that stands twice, in the order of the file."""
    place: list[str | int] = []
    within: list[Iterator[tuple[str | int, Any]]] = [iter([("", document)])]
    while within:
        key, value = next(within[-1], (None, None))
        if key is None:
            within.pop()
            if place:
                place.pop()
            continue
        if isinstance(value, dict | list):
            place.append(key)
            if isinstance(value, _DoubledKeys):
                for twice in value.doubled:
                    yield Fault(Path((*place[1:], twice)), f"The key “{shown(twice)}” appears twice.", "Keep one.")
            within.append(iter(value.items()) if isinstance(value, dict) else iter(enumerate(value)))


def _refuse_half_characters(text: str, document: Any) -> None:
    try:
        for part in json.JSONEncoder(ensure_ascii=False, default=str).iterencode(document):
            part.encode()
    except UnicodeEncodeError:
        at = re.search(r"\\u[dD][89a-fA-F]", text)
        line = text.count("\n", 0, at.start()) + 1 if at else 1
        fault = Fault(f"line {line}", "An escape sequence makes half a character.", "Write the character itself.")
        raise ProjectError(fault) from None


def _too_deep(text: str) -> ProjectError:
    depth, place = 0, ""
    for token in re.finditer(rf"{_TEXT}|[\[\]{{}}]", text):
        depth += {"[": 1, "{": 1, "]": -1, "}": -1}.get(token.group(), 0)
        if depth > MOST_DEPTH:
            place = f"line {text.count(chr(10), 0, token.start()) + 1}"
            break
    message = f"The file is nested deeper than {MOST_DEPTH} levels."
    return ProjectError(Fault(place, message, "Choose a Kivant project file."))


def render(value: Any, newline: str) -> str:
    """Return JSON as `json.dumps` lays it out with an indent of 2, with decimals by their own digits."""
    deeper = newline + "  "
    if isinstance(value, dict) and value:
        lines = (f"{json.dumps(key, ensure_ascii=False)}: {render(item, deeper)}" for key, item in value.items())
        return "{" + deeper + f",{deeper}".join(lines) + newline + "}"
    if isinstance(value, list) and value:
        return "[" + deeper + f",{deeper}".join(render(item, deeper) for item in value) + newline + "]"
    return str(value) if isinstance(value, Decimal) else json.dumps(value, ensure_ascii=False)
