"""Parts of a machine in files of their own, so that they can be kept for other machines: open JSON."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Generic, TypeVar

from msgspec import Struct

from kivant.core.errors import Fault, KivantError
from kivant.core.fields import Part
from kivant.core.machine import Board, Motor
from kivant.core.machine.rules import point_faults
from kivant.core.path import Path as KeyPath
from kivant.files.json_text import parse, refuse_mass, render
from kivant.files.ordinary import read_ordinary
from kivant.files.reader import read_part
from kivant.files.write import write_atomically
from kivant.files.writer import written

VERSION = 1
MOST_BYTES = 1_000_000

AnyPart = TypeVar("AnyPart", bound=Part)


class PartFileError(KivantError):
    """A file that does not hold what it should; each fault names its place."""


class PartFile(Struct, Generic[AnyPart], frozen=True):
    """How parts of one kind are kept.

    Parameters
    ----------
    word : str
        What one is called; the format is ``kivant-`` and this word.
    type : type
        Its class.
    faults : callable
        What is wrong between its fields.
    """

    word: str
    type: type[AnyPart]
    faults: Callable[[AnyPart], Iterator[Fault]]

    def load(self, path: Path) -> AnyPart:
        """Return the part in a file.

        Raises
        ------
        KivantError
            If the file cannot be read, is no JSON, or breaks any rule of the format.
        """
        data = read_ordinary(path, MOST_BYTES, PartFileError)
        if len(data) > MOST_BYTES:
            raise PartFileError(Fault(str(path), "The file is larger than 1 MB.", "Choose a file that Kivant kept."))
        document = parse(data)
        known = isinstance(document, dict) and document.get("version") == VERSION
        if not known or document.get("format") != f"kivant-{self.word}":
            message = f"This is not a {self.word} that Kivant kept."
            raise PartFileError(Fault(str(path), message, "Choose another file."))
        part, faults = read_part(self.type, document.get(self.word))
        if part is not None:
            faults = [*faults, *self.faults(part)]
        if part is None or faults:
            raise PartFileError(*faults)
        return part

    def save(self, part: AnyPart, path: Path) -> None:
        """Write a part to a file, atomically.

        Raises
        ------
        OSError
            If it cannot be written.
        """
        text = render({"format": f"kivant-{self.word}", "version": VERSION, self.word: written(part)}, "\n") + "\n"
        refuse_mass(text)
        write_atomically(path, [text.encode()])


def _board_faults(board: Board) -> Iterator[Fault]:
    for side in ("lines", "inputs"):
        names = getattr(board, side)
        if len(set(names)) < len(names):
            yield Fault(f"board.{side}", "A name appears twice.", "Give each a different name.")


BOARD_FILE = PartFile("board", Board, _board_faults)
MOTOR_FILE = PartFile("motor", Motor, lambda motor: point_faults(KeyPath.of("motor", "torque_points"), motor))
