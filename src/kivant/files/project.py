"""Project files, ``*.kivant``: load, validate, save, schema.

Every file is untrusted. A file that is refused names all its faults, each with its place, what was expected
and what to do; nothing half-read ever leaves this module. What a machine may hold is said in the core: reader and
schema are derived from there.
"""

from __future__ import annotations

from itertools import islice
from pathlib import Path
from typing import Any

from kivant.core.errors import MOST_FAULTS, Fault, shown
from kivant.core.machine import Machine
from kivant.core.machine.check import found_text, remember
from kivant.core.machine.rules import broken_rules
from kivant.files.json_schema import schema_of
from kivant.files.json_text import MOST_BYTES, ProjectError, parse, project_error, refuse_mass, render
from kivant.files.ordinary import read_ordinary
from kivant.files.reader import read_part
from kivant.files.write import write_atomically
from kivant.files.writer import written

__all__ = ["SUFFIX", "ProjectError", "dumps", "from_document", "load", "loads", "save", "schema"]

SUFFIX = ".kivant"
FORMAT, VERSION = "kivant-project", 1


def load(path: str | Path) -> Machine:
    """Return the machine in a project file.

    Raises
    ------
    ProjectError
        If the file cannot be read, is too large, is no JSON, or breaks any rule of the format.
    """
    return loads(read_ordinary(Path(path), MOST_BYTES, ProjectError))


def loads(data: bytes) -> Machine:
    """Return the machine in the bytes of a project file.

    Raises
    ------
    ProjectError
        As for `load`.
    """
    return from_document(parse(data))


def from_document(document: Any) -> Machine:
    """Return the machine in a parsed document (dicts and lists, numbers as int or Decimal).

    Raises
    ------
    ProjectError
        As for `load`.
    """
    _refuse_foreign(document)
    body = {key: value for key, value in document.items() if key not in ("format", "version")}
    machine, faults = read_part(Machine, body)
    if machine is not None:
        faults = list(islice(broken_rules(machine), MOST_FAULTS + 1))
    if machine is None or faults:
        raise project_error(faults)
    remember(machine, *machine.routines)
    return machine


def dumps(machine: Machine) -> bytes:
    """Return a machine as the bytes of a project file: keys in the schema's order, 2 spaces, final newline.

    Raises
    ------
    ProjectError
        If the file would be too large to be read again.
    """
    document = {"format": FORMAT, "version": VERSION, **written(machine)}
    text = render(document, "\n") + "\n"
    refuse_mass(text)
    return text.encode()


def save(machine: Machine, path: str | Path) -> None:
    """Write a project file, atomically.

    Raises
    ------
    OSError
        If it cannot be written; the file that was there is then untouched.
    ProjectError
        If the file would be too large to be read again.
    """
    write_atomically(Path(path), [dumps(machine)])


def schema() -> dict[str, Any]:
    """Return the JSON Schema (draft 2020-12) of the project file."""
    found = schema_of(Machine)
    head = {
        "format": {"const": FORMAT, "title": "Format", "type": "string"},
        "version": {"const": VERSION, "title": "Version", "type": "integer"},
    }
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        **found,
        "title": "Project",
        "description": "A Kivant project file, version 1.",
        "properties": head | found["properties"],
        "required": ["format", "version"],
    }


def _refuse_foreign(document: Any) -> None:
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        found = document.get("format") if isinstance(document, dict) else None
        message = f'This is not a Kivant project: "format" should be "{FORMAT}"'
        message += f", found {found_text(found)}." if found is not None else "."
        raise ProjectError(Fault("format", message, "Choose a file that Kivant saved."))
    version = document.get("version")
    if type(version) is not int or version < VERSION:
        message = f"Expected the whole number {VERSION}; found {shown(found_text(version))}."
        raise ProjectError(Fault("version", message, "Correct the value."))
    if version > VERSION:
        message = f"The file has version {version}; this Kivant reads up to version {VERSION}."
        raise ProjectError(Fault("version", message, "Open it with a newer Kivant. The file is left as it is."))
