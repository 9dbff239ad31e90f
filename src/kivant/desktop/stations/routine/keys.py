"""The keys and the menu of the Routine station: which act each means."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent, QKeySequence
from PySide6.QtWidgets import QMenu

from kivant.desktop.stations.routine.acts import Acts
from kivant.desktop.stations.routine.line_typing import LineTyping

Act = Callable[[], object]


def act_of(event: QKeyEvent, acts: Acts, typing: LineTyping) -> Act | None:
    """Return what a key means in the list, None where it is the list's own."""
    key, modifiers, standard = Qt.Key(event.key()), event.modifiers(), QKeySequence.StandardKey
    if modifiers & Qt.KeyboardModifier.AltModifier:
        moves: dict[Qt.Key, Act] = {
            Qt.Key.Key_Up: lambda: acts.move_by(-1), Qt.Key.Key_Down: lambda: acts.move_by(1),
            Qt.Key.Key_Left: acts.move_out, Qt.Key.Key_Right: acts.move_in,
        }  # fmt: skip
        return moves.get(key)
    usual: tuple[tuple[QKeySequence.StandardKey, Act], ...] = (
        (standard.Copy, acts.copy), (standard.Cut, acts.cut), (standard.Paste, acts.paste),
        (standard.Delete, acts.remove),
    )  # fmt: skip
    for sequence, act in usual:
        if event.matches(sequence):
            return act
    if modifiers & Qt.KeyboardModifier.ShiftModifier:
        return None  # the window's own
    if modifiers & Qt.KeyboardModifier.ControlModifier:
        own: dict[Qt.Key, Act] = {
            Qt.Key.Key_D: acts.duplicate, Qt.Key.Key_E: acts.switch, Qt.Key.Key_P: acts.repeat,
        }  # fmt: skip
        return own.get(key)
    plain: dict[Qt.Key, Act] = {
        Qt.Key.Key_Return: typing.line, Qt.Key.Key_Enter: typing.line, Qt.Key.Key_F2: typing.name,
    }  # fmt: skip
    return plain.get(key)


def fill_menu(menu: QMenu, acts: Acts, typing: LineTyping) -> None:
    """Offer what can be done to the chosen blocks."""
    free = not acts.program.session.running.active
    entries: tuple[tuple[str, Act], ...] = (
        ("Change the line\tEnter", typing.line), ("Name it\tF2", typing.name),
        ("Duplicate\tCtrl+D", acts.duplicate), ("Repeat\tCtrl+P", acts.repeat),
        ("Dissolve the repeat", acts.dissolve), ("Switch off or on\tCtrl+E", acts.switch),
        ("Copy\tCtrl+C", acts.copy), ("Cut\tCtrl+X", acts.cut), ("Paste\tCtrl+V", acts.paste),
        ("Copy the positions as a table", acts.copy_table),
        ("Delete\tDel", acts.remove),
    )  # fmt: skip
    for text, act in entries:
        action = menu.addAction(text)
        action.setEnabled(free)
        action.triggered.connect(lambda _checked=False, do=act: do())
