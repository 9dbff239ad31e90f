"""The shelf: boards that somebody has described once and keeps for other machines, a file of open JSON each.

It lies in the data folder of the XDG base directories; ``KIVANT_SHELF`` names another one.
"""

from __future__ import annotations

import os
import re
from pathlib import Path

from platformdirs import user_data_path

from kivant.core.errors import Fault, KivantError
from kivant.core.machine import Board
from kivant.files.board_file import save_board
from kivant.files.write import private_folder

_MOST_BOARDS = 200


class ShelfError(KivantError):
    """A board that cannot be kept."""


def shelf_folder() -> Path:
    """Return the folder of this user's boards."""
    return Path(os.environ.get("KIVANT_SHELF") or user_data_path("kivant")) / "boards"


def kept_boards() -> dict[str, Path]:
    """Return the files of the boards on the shelf by their names, in order; none where it is empty."""
    try:
        files = sorted(shelf_folder().glob("*.json"))[:_MOST_BOARDS]
    except OSError:
        return {}
    return {path.stem: path for path in files}


def keep_board(board: Board) -> Path:
    """Put a board on the shelf under its name, in place of one of the same name; return its file.

    Raises
    ------
    ShelfError
        If it has no name, or cannot be written.
    """
    name = re.sub(r"[^\w .()+-]", "_", board.name.strip())[:80].lstrip(".")
    if not name:
        raise ShelfError(Fault("board.name", "The board has no name.", "Type a name, and keep it then."))
    path = shelf_folder() / f"{name}.json"
    try:
        private_folder(path.parent)
        save_board(board, path)
    except OSError as error:
        said = f"The board cannot be kept: {error.strerror or error}."
        raise ShelfError(Fault(str(path), said, "Check the folder's permissions.")) from None
    return path
