"""The shelf: parts that somebody has described once and keeps for other machines, a file of open JSON each.

It lies in the data folder of the XDG base directories; ``KIVANT_SHELF`` names another one.
"""

from __future__ import annotations

import os
import re
from pathlib import Path

from platformdirs import user_data_path

from kivant.core.errors import Fault, KivantError
from kivant.files.part_file import AnyPart, PartFile
from kivant.files.write import private_folder

_MOST = 200


class ShelfError(KivantError):
    """A part that cannot be kept."""


def shelf_folder(kind: PartFile[AnyPart]) -> Path:
    """Return the folder of this user's parts of a kind."""
    return Path(os.environ.get("KIVANT_SHELF") or user_data_path("kivant")) / f"{kind.word}s"


def kept(kind: PartFile[AnyPart]) -> dict[str, Path]:
    """Return the files of the parts of a kind on the shelf by their names, in order; none where it is empty."""
    try:
        files = sorted(shelf_folder(kind).glob("*.json"))[:_MOST]
    except OSError:
        return {}
    return {path.stem: path for path in files}


def keep(kind: PartFile[AnyPart], part: AnyPart, called: str) -> Path:
    """Put a part on the shelf under its name, in place of one of the same name; return its file.

    Raises
    ------
    ShelfError
        If it has no name, or cannot be written.
    """
    name = re.sub(r"[^\w .()+-]", "_", called.strip())[:80].lstrip(".")
    if not name:
        raise ShelfError(Fault(kind.word, f"The {kind.word} has no name.", "Type a name, then keep it."))
    path = shelf_folder(kind) / f"{name}.json"
    try:
        private_folder(path.parent)
        kind.save(part, path)
    except OSError as error:
        said = f"The {kind.word} cannot be kept: {error.strerror or error}."
        raise ShelfError(Fault(str(path), said, "Check the folder's permissions.")) from None
    return path
