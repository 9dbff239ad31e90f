"""A board in a file of its own, so that it can be kept for other machines."""

from __future__ import annotations

from pathlib import Path

from kivant.core.errors import Fault, KivantError
from kivant.core.machine import Board
from kivant.files.json_text import parse, refuse_mass, render
from kivant.files.ordinary import read_ordinary
from kivant.files.reader import read_part
from kivant.files.write import write_atomically
from kivant.files.writer import written

FORMAT, VERSION = "kivant-board", 1
MOST_BYTES = 1_000_000


class BoardFileError(KivantError):
    """A file that holds no board; each fault names its place."""


def load_board(path: Path) -> Board:
    """Return the board in a file.

    Raises
    ------
    KivantError
        If the file cannot be read, is no JSON, or breaks any rule of the format.
    """
    data = read_ordinary(path, MOST_BYTES, BoardFileError)
    if len(data) > MOST_BYTES:
        raise BoardFileError(Fault(str(path), "The file is larger than 1 MB.", "Choose a file that Kivant kept."))
    document = parse(data)
    known = isinstance(document, dict) and document.get("format") == FORMAT and document.get("version") == VERSION
    if not known:
        raise BoardFileError(Fault(str(path), "This is no board that Kivant kept.", "Choose another file."))
    board, faults = read_part(Board, document.get("board"))
    for side in ("lines", "inputs") if board is not None else ():
        names = getattr(board, side)
        if len(set(names)) < len(names):
            faults.append(Fault(f"board.{side}", "A name appears twice.", "Give each a different name."))
    if board is None or faults:
        raise BoardFileError(*faults)
    return board


def save_board(board: Board, path: Path) -> None:
    """Write a board to a file, atomically.

    Raises
    ------
    OSError
        If it cannot be written.
    """
    text = render({"format": FORMAT, "version": VERSION, "board": written(board)}, "\n") + "\n"
    refuse_mass(text)
    write_atomically(path, [text.encode()])
