"""Mechanics of a machine's axes in a file, for a stand-in that is a little wrong: JSON, by the names of the axes."""

from __future__ import annotations

from pathlib import Path

from kivant.core.errors import Fault, KivantError
from kivant.core.path import Path as KeyPath
from kivant.core.travel.mechanics import Mechanics
from kivant.files.json_text import parse
from kivant.files.ordinary import read_ordinary
from kivant.files.reader import read_part

MOST_BYTES = 1_000_000
MOST_AXES = 64


class MechanicsError(KivantError):
    """A file that holds no mechanics; each fault names its place."""


def load_mechanics(path: Path) -> dict[str, Mechanics]:
    """Return what each axis does, by its name.

    Raises
    ------
    KivantError
        If the file cannot be read, is no JSON, or has a value that cannot be.
    """
    data = read_ordinary(path, MOST_BYTES, MechanicsError)
    document = parse(data) if len(data) <= MOST_BYTES else None
    if not isinstance(document, dict) or not 0 < len(document) <= MOST_AXES:
        message = "This is not a list of mechanics."
        remedy = 'Write an object of at most 64 axes by their names, such as {"Wheel": {"scale": 1.01}}.'
        raise MechanicsError(Fault(str(path), message, remedy))
    found: dict[str, Mechanics] = {}
    wrong: list[Fault] = []
    for name, value in document.items():
        mechanics, faults = read_part(Mechanics, value)
        wrong += [Fault(KeyPath((name, *f.place)), f.message, f.remedy) for f in faults]
        if mechanics is not None:
            found[name] = mechanics
    if wrong:
        raise MechanicsError(*wrong[:20])
    return found
