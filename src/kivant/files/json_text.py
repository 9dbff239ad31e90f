"""JSON text to a parsed document and back: numbers by their own digits, and nothing that a file cannot hold.

Every text is untrusted. What is refused is told with its line and column, or with the key path of its fault.
"""

from __future__ import annotations

import json
import re
from collections import Counter
from decimal import Decimal, InvalidOperation
from typing import Any

from kivant.core.errors import MOST_FAULTS, Fault, KivantError, shown
from kivant.core.path import Path

MOST_BYTES = 64 * 1024 * 1024
MOST_DEPTH = 32


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
    try:
        document = json.loads(text, parse_float=_decimal, parse_constant=_refuse_constant, object_pairs_hook=_unique)
    except json.JSONDecodeError as error:
        place = f"line {error.lineno}, column {error.colno}"
        fault = Fault(place, f"This is not JSON: {error.msg}.", "The file may be cut off or damaged there.")
        raise ProjectError(fault) from None
    except RecursionError:
        raise _too_deep(text) from None
    except _UnreadableError as error:
        line = text.count("\n", 0, text.find(error.number)) + 1
        message = f"The number {shown(error.number)} cannot be read: it is too far from 1."
        raise ProjectError(Fault(f"line {line}", message, "Write a number that Kivant can use.")) from None
    except ValueError as error:  # a whole number of thousands of digits
        raise ProjectError(Fault("", f"A number cannot be read: {error}.", "Write a smaller number.")) from None
    _inspect(document, text)
    return document


class _UnreadableError(ValueError):
    """A number that no decimal can hold."""

    def __init__(self, number: str) -> None:
        super().__init__(number)
        self.number = number


def _decimal(number: str) -> Decimal:
    try:
        return Decimal(number)
    except InvalidOperation:
        raise _UnreadableError(number) from None


class _DoubledKeys(dict[str, Any]):
    """An object in which a key stood twice; it only lives until that is reported."""

    doubled: tuple[str, ...]


def _unique(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    found = dict(pairs)
    if len(found) < len(pairs):
        found = _DoubledKeys(found)
        found.doubled = tuple(key for key, n in Counter(key for key, _ in pairs).items() if n > 1)
    return found


def _inspect(document: Any, text: str) -> None:
    """Refuse doubled keys and deep nesting, without recursion."""
    faults: list[Fault] = []
    stack: list[tuple[Path, Any, int]] = [(Path(), document, 0)]
    while stack:
        place, value, depth = stack.pop()
        if depth > MOST_DEPTH:
            raise _too_deep(text)
        if isinstance(value, _DoubledKeys):
            for key in value.doubled:
                message = f"The key “{key}” appears twice."
                faults.append(Fault(place / key, message, "Keep one of them."))
        if isinstance(value, dict):
            stack.extend((place / k, v, depth + 1) for k, v in value.items() if isinstance(v, dict | list))
        elif isinstance(value, list):
            stack.extend((place / k, v, depth + 1) for k, v in enumerate(value) if isinstance(v, dict | list))
    if "\\u" in text:  # only an escape can make half of a surrogate pair, which no file can hold again
        faults += _half_characters(text, document)
    if faults:
        raise project_error(faults[::-1])


def _half_characters(text: str, document: Any) -> list[Fault]:
    try:
        json.dumps(document, ensure_ascii=False, default=str).encode()
    except UnicodeEncodeError:
        at = re.search(r"\\u[dD][89a-fA-F]", text)
        line = text.count("\n", 0, at.start()) + 1 if at else 1
        return [Fault(f"line {line}", "An escape sequence makes half a character.", "Write the character itself.")]
    return []


def _too_deep(text: str) -> ProjectError:
    depth, place = 0, ""
    for token in re.finditer(r'"(?:[^"\\]|\\.)*+"|[\[\]{}]', text):
        depth += {"[": 1, "{": 1, "]": -1, "}": -1}.get(token.group(), 0)
        if depth > MOST_DEPTH:
            place = f"line {text.count(chr(10), 0, token.start()) + 1}"
            break
    message = f"The file is nested deeper than {MOST_DEPTH} levels."
    return ProjectError(Fault(place, message, "Choose a Kivant project file."))


def _refuse_constant(name: str) -> Any:
    fault = Fault("", f"{name} is not a JSON number.", "Write a finite number.")
    raise ProjectError(fault)


def render(value: Any, newline: str) -> str:
    """Return JSON as `json.dumps` lays it out with an indent of 2, with decimals by their own digits."""
    deeper = newline + "  "
    if isinstance(value, dict) and value:
        lines = (f"{json.dumps(key, ensure_ascii=False)}: {render(item, deeper)}" for key, item in value.items())
        return "{" + deeper + f",{deeper}".join(lines) + newline + "}"
    if isinstance(value, list) and value:
        return "[" + deeper + f",{deeper}".join(render(item, deeper) for item in value) + newline + "]"
    return str(value) if isinstance(value, Decimal) else json.dumps(value, ensure_ascii=False)
