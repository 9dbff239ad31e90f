"""What is done to the chosen blocks of a program, by a button, a key or an entry of a menu."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal

from msgspec.structs import replace
from PySide6.QtWidgets import QApplication

from kivant.core.errors import KivantError
from kivant.core.machine import Block, Call, Each, Move, Note, Pause, Repeat, Spin
from kivant.core.motion.blocks import block_kind
from kivant.core.program import editing
from kivant.core.program.editing import Place, block_at
from kivant.core.program.position_table import is_table, moves_of, table_of
from kivant.desktop.stations.routine.program import Program, number_of
from kivant.files.block_text import blocks_as_text, blocks_from_text

_FIRST_WAY = {"deg": Decimal(90), "mm": Decimal(10)}
_PLAIN: dict[str, Block] = {
    "pause": Pause(seconds=0.5),
    "note": Note(text="what comes next"),
    "repeat": Repeat(times=2),
}


class Acts:
    """Every act returns whether it did anything; why it could not is told to a person."""

    def __init__(self, program: Program) -> None:
        self.program, self.session = program, program.session

    def _chosen(self) -> tuple[int, list[Place], list[Block]] | None:
        """Return the routine, and the places and blocks that are chosen; None where there are none."""
        own = self.program
        if own.index is None or not own.places:
            return None
        return own.index, own.taken, [block_at(own.blocks, place) for place in own.taken]

    # New blocks

    def add(self, kind: str) -> bool:
        """Put a new block of a kind behind the current one; a repeat takes the chosen blocks in."""
        if kind == "repeat" and self.program.places:
            return self.repeat()
        block = self._new(kind)
        return block is not None and self.program.insert([block], f"new {kind}")

    def _new(self, kind: str) -> Block | None:
        axis, machine = self.session.choice.axis, self.session.document.machine
        if kind in _PLAIN:
            return _PLAIN[kind]
        if kind == "call":
            others = [r.name for r in machine.routines if r.name != self.session.choice.routine_name]
            if others:
                return Call(routine=others[0])
            self.session.notice("There is no other routine to call. Make one first.")
            return None
        if axis is None:
            self.session.notice("This machine has no axes yet. Add one at the left.")
            return None
        if kind == "spin":
            return Spin(speeds={axis.name: Decimal(f"{axis.limits.speed / 2:.6g}")}, seconds=2.0)
        if kind == "each":
            return Each(by={other.name: _FIRST_WAY[other.unit] for other in machine.axes[:2]})
        return Move(by={axis.name: _FIRST_WAY[axis.unit]})

    def duplicate(self) -> bool:
        """Put copies of the chosen blocks behind the last of them."""
        chosen = self._chosen()
        if chosen is None:
            return False
        _index, places, blocks = chosen
        last = places[-1]
        return self.program.insert(blocks, _of(places, "duplicate"), (*last[:-1], last[-1] + 1))

    # Chosen blocks

    def remove(self) -> bool:
        """Take the chosen blocks out."""
        chosen = self._chosen()
        if chosen is None:
            return False
        index, places, _blocks = chosen
        first, own = places[0], self.program
        done = own.edit(editing.remove_blocks(index, places), _of(places, "delete"), ())
        if done:
            there = first if own.block(first) is not None else (*first[:-1], first[-1] - 1)
            own.choose([there] if there[-1] >= 0 else [first[:-1]] if first[:-1] else [])
        return done

    def repeat(self) -> bool:
        """Put the chosen blocks into a repeat."""
        chosen = self._chosen()
        if chosen is None:
            return False
        index, places, _blocks = chosen
        return self.program.edit(editing.wrap_blocks(index, places), _of(places, "repeat"), [places[0]])

    def dissolve(self) -> bool:
        """Put what is inside of the current block in its place."""
        own, at = self.program, self.program.current
        block = own.block(at) if at else None
        if own.index is None or at is None or block is None or block_kind(block).filled is None:
            return False
        new = [(*at[:-1], at[-1] + k) for k in range(len(block_kind(block).inside(block)))]
        return own.edit(editing.unwrap_blocks(own.index, at), f"dissolve {number_of(at)}", new)

    def switch(self) -> bool:
        """Switch the chosen blocks off, or on where all of them are off."""
        chosen = self._chosen()
        if chosen is None:
            return False
        index, places, blocks = chosen
        off = None if all(block.off for block in blocks) else True
        new = [(place, replace(block, off=off)) for place, block in zip(places, blocks, strict=True)]
        return self.program.edit(editing.replace_blocks(index, new), _of(places, "switch off" if off else "switch on"))

    # Moving them

    def move_to(self, to: Place) -> bool:
        """Move the chosen blocks to a place."""
        own, chosen = self.program, self._chosen()
        if chosen is None:
            return False
        index, places, _blocks = chosen
        try:
            _found, landing = editing.moved(own.blocks, places, to)
        except (KivantError, IndexError) as error:
            self.session.notice(str(error))
            return False
        new = [(*landing[:-1], landing[-1] + k) for k in range(len(places))]
        return own.edit(editing.move_blocks(index, places, to), _of(places, "move"), new)

    def move_by(self, direction: int) -> bool:
        """Move the chosen blocks up (-1) or down (1), out of a repeat at its end."""
        own = self.program
        if not own.places:
            return False
        edge = own.taken[0] if direction < 0 else own.taken[-1]
        parent, index = edge[:-1], edge[-1]
        if direction < 0:
            to = (*parent, index - 1) if index else parent
        else:
            outside = (*parent[:-1], parent[-1] + 1) if parent else ()
            to = (*parent, index + 2) if own.block((*parent, index + 1)) is not None else outside
        return bool(to) and self.move_to(to)

    def move_in(self) -> bool:
        """Move the chosen blocks into the repeat before them, at its end."""
        own = self.program
        first = own.taken[0] if own.places else (0,)
        before = (*first[:-1], first[-1] - 1)
        block = own.block(before) if first[-1] else None
        if block is None or block_kind(block).filled is None:
            return False
        return self.move_to((*before, len(block_kind(block).inside(block))))

    def move_out(self) -> bool:
        """Move the chosen blocks out of their repeat, behind it."""
        parent = self.program.taken[0][:-1] if self.program.places else ()
        return bool(parent) and self.move_to((*parent[:-1], parent[-1] + 1))

    # Clipboard

    def copy(self) -> bool:
        """Copy the chosen blocks as text."""
        chosen = self._chosen()
        if chosen is not None:
            QApplication.clipboard().setText(blocks_as_text(chosen[2]))
        return chosen is not None

    def cut(self) -> bool:
        """Copy the chosen blocks, and take them out."""
        return self.copy() and self.remove()

    def copy_table(self) -> bool:
        """Copy what the chosen blocks (or all) tell the axes, as a table for a spreadsheet."""
        chosen, own = self._chosen(), self.program
        QApplication.clipboard().setText(table_of(self.session.document.machine, chosen[2] if chosen else own.blocks))
        return True

    def paste(self) -> bool:
        """Put the blocks of the clipboard behind the current one; of a table of positions, moves.

        A table with a row for each chosen block gives those other targets.
        """
        text, chosen = QApplication.clipboard().text(), self._chosen()
        try:
            if is_table(text):
                return self._paste_table(text, chosen)
            blocks = blocks_from_text(text)
        except KivantError as error:
            self.session.notice(f"Nothing was pasted. {error.faults[0].said}")
            return False
        return self.program.insert(blocks, f"paste {len(blocks)} block{'s' if len(blocks) != 1 else ''}")

    def _paste_table(self, text: str, chosen: tuple[int, list[Place], list[Block]] | None) -> bool:
        index, places, before = chosen if chosen is not None else (0, [], [])
        blocks = moves_of(self.session.document.machine, text, before)
        if len(blocks) == len(before):
            changes = list(zip(places, blocks, strict=True))
            return self.program.edit(editing.replace_blocks(index, changes), f"paste {len(blocks)} rows")
        return self.program.insert(blocks, f"paste {len(blocks)} rows")


def _of(places: Sequence[Place], what: str) -> str:
    return f"{what} block {number_of(places[0])}" if len(places) == 1 else f"{what} {len(places)} blocks"
