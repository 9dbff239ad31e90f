"""The program that is worked on: the blocks of the chosen routine, those that are chosen, and what is done to them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from decimal import Decimal

from msgspec.structs import replace
from PySide6.QtCore import QObject, Signal

from kivant.core.errors import Fault, KivantError
from kivant.core.machine import Block, Routine
from kivant.core.machine.edits import Edit
from kivant.core.motion.blocks import block_kind
from kivant.core.program import editing
from kivant.core.program.editing import Place, block_at, outermost
from kivant.core.program.reading import read_line
from kivant.desktop.state.session import Session

_FIRST_WAY = {"deg": Decimal(90), "mm": Decimal(10)}


class Program(QObject):
    """Blocks by their places; ``chosen_changed`` tells of other ones chosen."""

    chosen_changed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.places: tuple[Place, ...] = ()
        self.current: Place | None = None
        self._routine_name = session.choice.routine_name

    # What there is

    @property
    def index(self) -> int | None:
        """Which routine of the machine is chosen; None where it is the move of one's own."""
        names = [routine.name for routine in self.session.document.machine.routines]
        name = self.session.choice.routine_name
        return names.index(name) if name in names else None

    @property
    def routine(self) -> Routine | None:
        """The chosen routine."""
        index = self.index
        return None if index is None else self.session.document.machine.routines[index]

    @property
    def blocks(self) -> tuple[Block, ...]:
        """Its blocks."""
        return self.routine.blocks if self.routine is not None else ()

    def block(self, place: Place) -> Block | None:
        """Return the block at a place, None if there is none."""
        try:
            return block_at(self.blocks, place)
        except IndexError:
            return None

    # What is chosen

    def choose(self, places: Iterable[Place], current: Place | None = None) -> None:
        """Choose blocks; one of them is the current one."""
        kept = tuple(place for place in places if self.block(place) is not None)
        current = current if current in kept else kept[-1] if kept else None
        if (kept, current) != (self.places, self.current):
            self.places, self.current = kept, current
            self.chosen_changed.emit()

    def keep_up(self) -> None:
        """Choose nothing that is not there any more, and nothing of another routine."""
        if self._routine_name != self.session.choice.routine_name:
            self._routine_name = self.session.choice.routine_name
            self.choose(())
        self.choose(self.places, self.current)

    @property
    def taken(self) -> list[Place]:
        """The chosen blocks, without those that lie in another one of them."""
        return outermost(self.places)

    # What is done

    def edit(self, edit: Edit, name: str, choose: Sequence[Place] | None = None, *, merge: bool = False) -> bool:
        """Change the machine, and choose other blocks; tell why, if it cannot be done. Return whether it was."""
        if not self.session.try_edit(edit, name, merge=merge):
            return False
        if choose is not None:
            self.choose(choose, choose[-1] if choose else None)
        return True

    def behind(self) -> Place:
        """Return where a new block goes: behind the current one, into it where it is an empty repeat."""
        if self.current is None:
            return (len(self.blocks),)
        block = self.block(self.current)
        if block is not None and block_kind(block).filled is not None and not block_kind(block).inside(block):
            return (*self.current, 0)
        return (*self.current[:-1], self.current[-1] + 1)

    def insert(self, blocks: Sequence[Block], name: str, at: Place | None = None) -> bool:
        """Put blocks behind the current one, and choose them."""
        if self.index is None:
            self.session.notice("Choose a routine first, or make a new one.")
            return False
        at = at or self.behind()
        new = [(*at[:-1], at[-1] + k) for k in range(len(blocks))]
        return self.edit(editing.insert_blocks(self.index, at, blocks), name, new)

    def insert_line(self, text: str, *, merge: bool = False) -> None:
        """Put the block that a line means behind the current one.

        Raises
        ------
        KivantError
            If the line means none, or the block cannot stand there.
        """
        if self.index is None:
            raise KivantError(Fault("", "No routine is chosen.", "Choose one, or make a new one at “all routines”."))
        block, at = read_line(self.session.document.machine, text), self.behind()
        self.session.edit(editing.insert_blocks(self.index, at, [block]), f"new {block.do}", merge=merge)
        self.choose([at], at)

    def replace(self, place: Place, block: Block, name: str, *, merge: bool = False) -> None:
        """Put another block in the place of one.

        Raises
        ------
        KivantError
            If it cannot stand there.
        """
        if self.index is not None and self.block(place) is not None:
            self.session.edit(editing.replace_block(self.index, place, block), name, merge=merge)

    def retype(self, place: Place, text: str, *, merge: bool = False) -> None:
        """Take a line for a block.

        Raises
        ------
        KivantError
            If the line means none, or the block cannot stand there.
        """
        before = self.block(place)
        block = read_line(self.session.document.machine, text, before)
        self.replace(place, block, f"{block.do} {number_of(place)}", merge=merge)

    def rename(self, place: Place, text: str) -> None:
        """Give a block a name, or none.

        Raises
        ------
        KivantError
            If it cannot be called so.
        """
        block = self.block(place)
        if block is not None:
            named = replace(block, name=text.strip() or None)
            self.replace(place, named, f"name of {number_of(place)}")


def number_of(place: Place) -> str:
    """Return a place as a person counts it: 3.1 for the first inside of the third."""
    return ".".join(str(index + 1) for index in place)
