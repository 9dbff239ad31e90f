"""Project files, ``*.kivant``: load, validate, save, schema.

Every file is untrusted. A file that is refused names all its faults, each with its place, what was expected
and what to do; nothing half-read ever leaves this module.
"""

from __future__ import annotations

import json
import re
from collections import Counter
from decimal import Decimal
from itertools import islice
from pathlib import Path
from typing import Any

from pydantic import ValidationError
from pydantic_core import ErrorDetails

from kivant.core.errors import Fault, KivantError
from kivant.core.machine import Machine
from kivant.files.model import OMITTED_WHEN_NONE, Project
from kivant.files.rules import broken_rules
from kivant.files.write import write_atomically

SUFFIX = ".kivant"
MOST_BYTES = 64 * 1024 * 1024
MOST_DEPTH = 32
MOST_FAULTS = 50
VERSION = 1


class ProjectError(KivantError):
    """A project file cannot be read; ``faults`` names each fault with its place."""


def load(path: str | Path) -> Machine:
    """Return the machine in a project file.

    Raises
    ------
    ProjectError
        If the file cannot be read, is too large, is no JSON, or breaks any rule of the format.
    """
    path = Path(path)
    try:
        with path.open("rb") as file:
            data = file.read(MOST_BYTES + 1)
    except OSError as error:
        reason = error.strerror or str(error)
        fault = Fault(str(path), f"The file cannot be read: {reason}.", "Check the name and permissions.")
        raise ProjectError(fault) from error
    return loads(data)


def loads(data: bytes) -> Machine:
    """Return the machine in the bytes of a project file.

    Raises
    ------
    ProjectError
        As for `load`.
    """
    document = _parse(data)
    _refuse_foreign(document)
    return from_document(document)


def from_document(document: Any) -> Machine:
    """Return the machine in a parsed document (dicts and lists, numbers as int or Decimal).

    Raises
    ------
    ProjectError
        As for `load`.
    """
    try:
        machine = Project.model_validate(document).to_core()
    except ValidationError as error:
        faults = [_fault(document, detail) for detail in error.errors(include_url=False)]
        raise _project_error(faults) from None
    _refuse_broken(machine)
    return machine


def check(machine: Machine) -> None:
    """Refuse a machine that no project file could hold.

    Raises
    ------
    ProjectError
        As for `load`.
    """
    try:
        Project.model_validate(machine, from_attributes=True)
    except ValidationError as error:
        found = [_fault(machine, detail) for detail in error.errors(include_url=False)]
        raise _project_error(found) from None
    _refuse_broken(machine)


def _refuse_broken(machine: Machine) -> None:
    faults = list(islice(broken_rules(machine), MOST_FAULTS + 1))
    if faults:
        raise _project_error(faults)


def dumps(machine: Machine) -> bytes:
    """Return a machine as the bytes of a project file: keys in the schema's order, 2 spaces, final newline."""
    project = Project.model_validate(machine, from_attributes=True)
    return (_render(_pruned(project.model_dump()), "\n") + "\n").encode()


def save(machine: Machine, path: str | Path) -> None:
    """Write a project file, atomically.

    Raises
    ------
    OSError
        If it cannot be written; the file that was there is then untouched.
    """
    write_atomically(Path(path), [dumps(machine)])


def schema() -> dict[str, Any]:
    """Return the JSON Schema (draft 2020-12) of the project file."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        **Project.model_json_schema(),
        "required": ["format", "version"],
    }


def _parse(data: bytes) -> Any:
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
        document = json.loads(text, parse_float=Decimal, parse_constant=_refuse_constant, object_pairs_hook=_unique)
    except json.JSONDecodeError as error:
        place = f"line {error.lineno}, column {error.colno}"
        fault = Fault(place, f"This is not JSON: {error.msg}.", "The file may be cut off or damaged there.")
        raise ProjectError(fault) from None
    except RecursionError:
        raise _too_deep(text) from None
    except ValueError as error:  # a whole number of thousands of digits
        raise ProjectError(Fault("", f"A number cannot be read: {error}.", "Write a smaller number.")) from None
    _inspect(document, text)
    return document


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
    stack: list[tuple[str, Any, int]] = [("", document, 0)]
    while stack:
        place, value, depth = stack.pop()
        if depth > MOST_DEPTH:
            raise _too_deep(text)
        if isinstance(value, _DoubledKeys):
            for key in value.doubled:
                message = f"The key “{key}” is there twice."
                faults.append(Fault(f"{place}.{key}".lstrip("."), message, "Keep one of them."))
        if isinstance(value, dict):
            stack.extend((f"{place}.{k}", v, depth + 1) for k, v in value.items() if isinstance(v, dict | list))
        elif isinstance(value, list):
            stack.extend((f"{place}[{k}]", v, depth + 1) for k, v in enumerate(value) if isinstance(v, dict | list))
    if "\\u" in text:  # only an escape can make half of a surrogate pair, which no file can hold again
        faults += _half_characters(text, document)
    if faults:
        raise _project_error(faults[::-1])


def _half_characters(text: str, document: Any) -> list[Fault]:
    try:
        json.dumps(document, ensure_ascii=False, default=str).encode()
    except UnicodeEncodeError:
        at = re.search(r"\\u[dD][89a-fA-F]", text)
        line = text.count("\n", 0, at.start()) + 1 if at else 1
        return [Fault(f"line {line}", "An escape makes half a character.", "Write the character itself.")]
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
    fault = Fault("", f"{name} is not a number that JSON knows.", "Write a finite number.")
    raise ProjectError(fault)


def _refuse_foreign(document: Any) -> None:
    if not isinstance(document, dict) or document.get("format") != "kivant-project":
        found = document.get("format") if isinstance(document, dict) else None
        message = 'This is no Kivant project: "format" should be "kivant-project"'
        message += f", found {_shown(found)}." if found is not None else "."
        raise ProjectError(Fault("format", message, "Choose a file that Kivant saved."))
    version = document.get("version")
    if isinstance(version, int) and not isinstance(version, bool) and version > VERSION:
        message = f"The file has version {version}; this Kivant reads up to version {VERSION}."
        raise ProjectError(Fault("version", message, "Open it with a newer Kivant. It is left as it is."))


def _project_error(faults: list[Fault]) -> ProjectError:
    more = len(faults) - MOST_FAULTS
    shown = faults[:MOST_FAULTS]
    if more > 0:
        shown.append(Fault("", "There are more faults than these.", "Mend these first."))
    return ProjectError(*shown)


# What pydantic found, in the words of a maker: the sentence after "expected".
_EXPECTED = {
    "missing": "the key “{key}”, which is missing",
    "string_type": "text in quotes",
    "int_type": "a whole number",
    "int_from_float": "a whole number",
    "float_type": "a number",
    "is_instance_of": "a number",
    "decimal_type": "a number",
    "finite_number": "a finite number",
    "dict_type": "an object in braces",
    "model_type": "an object in braces",
    "model_attributes_type": "an object in braces",
    "list_type": "a list in brackets",
    "none_required": "null",
    "greater_than": "a number above {gt}",
    "greater_than_equal": "a number of at least {ge}",
    "less_than": "a number below {lt}",
    "less_than_equal": "a number of at most {le}",
    "literal_error": "{expected}",
    "union_tag_invalid": "{expected_tags}",
    "string_too_short": "a name that is not empty",
    "string_too_long": "at most {max_length} characters",
    "too_long": "at most {max_length} entries",
}


def _fault(document: Any, detail: ErrorDetails) -> Fault:
    kind, context = detail["type"], detail.get("ctx", {})
    place, value = _locate(document, detail["loc"])
    key = place.rpartition(".")[2]
    if kind == "extra_forbidden":
        return Fault(place, f"The key “{key}” is not known here.", "Check its spelling, or keep own data under “x”.")
    if kind == "union_tag_not_found":
        tag = str(context.get("discriminator", "")).strip("'")
        return Fault(place, f"Expected an object with the key “{tag}”, found {_shown(value)}.", f"Add “{tag}”.")
    if kind == "missing":
        return Fault(place, f"The key “{key}” is missing.", "Add it; docs/file-format.md lists all keys.")
    if kind == "value_error":
        said = str(context["error"])
        return Fault(place, f"{said[0].upper()}{said[1:]}; found {_shown(value)}.", "Correct the value.")
    template = _EXPECTED.get(kind)
    if kind == "greater_than_equal" and 0 < context["ge"] < 1e-3:
        template = "a number above 0 (at least {ge})"
    figures = {name: f"{v:g}" if isinstance(v, float) else v for name, v in context.items()}
    said = template.format(key=key, **figures) if template else detail["msg"]
    return Fault(place, f"Expected {said}; found {_shown(value)}.", "Correct the value.")


def _locate(document: Any, location: tuple[int | str, ...]) -> tuple[str, Any]:
    """Return the key path and value of an error's location, which also names the variants of unions."""
    place, value, tagged = "", document, False
    for part in location:
        if tagged and isinstance(part, str):
            tagged = False
            continue
        if part == "[key]":
            continue
        place += f"[{part}]" if isinstance(part, int) else f".{part}"
        try:
            value = value[part] if hasattr(value, "__getitem__") else getattr(value, str(part))
        except (KeyError, IndexError, TypeError, AttributeError):
            value = None
        inside_list = isinstance(part, int) and place.rpartition("[")[0].endswith((".travel", ".blocks"))
        tagged = part == "driver" or inside_list
    return place.lstrip("."), value


def _shown(value: Any) -> str:
    if isinstance(value, dict):
        return "an object"
    if isinstance(value, list):
        return "a list"
    text = str(value) if isinstance(value, Decimal) else json.dumps(value, ensure_ascii=False, default=str)
    return text if len(text) <= 60 else f"{text[:57]}…"


def _pruned(value: Any) -> Any:
    if isinstance(value, dict):
        return {
            key: item if key == "x" else _pruned(item)
            for key, item in value.items()
            if not (item is None and key in OMITTED_WHEN_NONE)
        }
    return [_pruned(item) for item in value] if isinstance(value, list) else value


def _render(value: Any, newline: str) -> str:
    """Return JSON as `json.dumps` lays it out with an indent of 2, with decimals by their own digits."""
    deeper = newline + "  "
    if isinstance(value, dict) and value:
        lines = (f"{json.dumps(key, ensure_ascii=False)}: {_render(item, deeper)}" for key, item in value.items())
        return "{" + deeper + f",{deeper}".join(lines) + newline + "}"
    if isinstance(value, list) and value:
        return "[" + deeper + f",{deeper}".join(_render(item, deeper) for item in value) + newline + "]"
    return str(value) if isinstance(value, Decimal) else json.dumps(value, ensure_ascii=False)
