"""Typing over a row of the list: the line of a block, its name, or the target of an axis in it."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QModelIndex
from PySide6.QtWidgets import QTreeView

from kivant.core.program.editing import Place
from kivant.core.program.targets import target_text, with_target
from kivant.desktop.stations.routine.block_model import LINE, POSITIONS, BlockModel
from kivant.desktop.stations.routine.program import Program, number_of
from kivant.desktop.widgets.value_field import ValueField, type_over

_NUMBER = 28  # pixels that the number of a block takes

Take = Callable[[str, bool], None]


class LineTyping:
    """Opens a field over a value of the list."""

    def __init__(self, view: QTreeView, program: Program, blocks: BlockModel) -> None:
        self.view, self.program, self.session, self.blocks = view, program, program.session, blocks

    def line(self, index: QModelIndex | None = None) -> None:
        """Type the line of a block (the current one), or the target of an axis in it."""
        view = self.view
        index = index if index is not None else view.currentIndex()
        place = self.blocks.place(index)
        if not index.isValid() or self.session.running.active:
            return
        if index.column() >= POSITIONS:
            self._target(index, place)
        elif index.column() == LINE:
            shown = str(self.blocks.index_of(place).data() or "")

            def take(text: str, merge: bool) -> None:
                self.program.retype(place, text, merge=merge)

            self._open(index, f"Block {number_of(place)}", shown, take)

    def name(self) -> None:
        """Type the name of the current block."""
        index = self.view.currentIndex()
        place, block = self.blocks.place(index), self.blocks.block(index)
        if block is not None and not self.session.running.active:

            def take(text: str, _merge: bool) -> None:
                self.program.rename(place, text)

            self._open(index.siblingAtColumn(LINE), f"Name of block {number_of(place)}", block.name or "", take)

    def _target(self, index: QModelIndex, place: Place) -> None:
        block, axis = self.blocks.block(index), self.blocks.machine.axes[index.column() - POSITIONS]
        if block is None:
            return
        what = f"{axis.name} in block {number_of(place)}"

        def take(text: str, merge: bool) -> None:
            self.program.replace(place, with_target(block, axis, text), what, merge=merge)

        self._open(index, what, target_text(block, axis), take)

    def _open(self, index: QModelIndex, name: str, shown: str, take: Take) -> None:
        program, place = self.program, self.blocks.place(index)
        meant = [program.block(place)]

        def taken(text: str, merge: bool) -> None:
            if program.block(place) is meant[0]:  # and not what has come to its place meanwhile
                take(text, merge)
                meant[0] = program.block(place)

        self.view.scrollTo(index)
        box = self.view.visualRect(index)
        if index.column() == LINE:
            box.setLeft(box.left() + _NUMBER)
        field = ValueField(self.session, name, lambda: shown, taken)
        type_over(self.view.viewport(), box.adjusted(0, 1, 0, -2), field)
        field.selectAll()
