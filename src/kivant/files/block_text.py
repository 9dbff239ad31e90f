"""Blocks as text: what is copied in one window and pasted into another, or into a letter."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated

from kivant.core.bounds import MaxLen
from kivant.core.errors import Fault
from kivant.core.fields import Part, Tagged
from kivant.core.motion.blocks import BLOCKS, Block
from kivant.files.json_text import ProjectError, parse, project_error, render
from kivant.files.reader import read_part
from kivant.files.writer import written

_KEY = "kivant-blocks"


class _Blocks(Part, frozen=True, kw_only=True):
    """Some blocks."""

    blocks: Annotated[tuple[Annotated[Block, Tagged("do", BLOCKS)], ...], MaxLen(1_000_000)]


def blocks_as_text(blocks: Sequence[Block]) -> str:
    """Return blocks as JSON text."""
    return render({_KEY: written(_Blocks(blocks=tuple(blocks)))["blocks"]}, "\n") + "\n"


def blocks_from_text(text: str) -> tuple[Block, ...]:
    """Return the blocks in a text that `blocks_as_text` made, or in a list of blocks as it stands in a project file.

    Raises
    ------
    ProjectError
        If there are none in it, naming what is wrong.
    """
    document = parse(text.encode())
    listed = document.get(_KEY) if isinstance(document, dict) else document
    if isinstance(document, dict) and "do" in document:
        listed = [document]
    if not isinstance(listed, list):
        message = "The text that was copied holds no blocks."
        raise ProjectError(Fault("clipboard", message, "Copy blocks in a Routine, or a list of blocks as in a file."))
    found, faults = read_part(_Blocks, {"blocks": listed})
    if found is None:
        raise project_error(faults)
    return found.blocks
