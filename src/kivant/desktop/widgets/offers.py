"""Common values, offered below a field while something is typed into it; any other value is taken just so."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtGui import QStandardItem, QStandardItemModel
from PySide6.QtWidgets import QCompleter

from kivant.core.travel.stages.kind import Common
from kivant.desktop.kit.theme import font
from kivant.desktop.widgets.value_field import ValueField

_MOST_SHOWN = 9


def offer(field: ValueField, values: Sequence[Common], unit: str) -> QCompleter:
    """Offer the values that begin as what is typed; one that is chosen is taken at once."""
    model = QStandardItemModel(len(values), 1, field)
    for row, value in enumerate(values):
        item = QStandardItem(f"{value.text}{unit}   {value.words}".rstrip())
        item.setData(f"{value.text}{unit}", Qt.ItemDataRole.UserRole)
        model.setItem(row, item)
    completer = QCompleter(model, field)
    completer.setCompletionRole(Qt.ItemDataRole.UserRole)
    completer.setMaxVisibleItems(_MOST_SHOWN)
    completer.activated.connect(lambda _text: field.commit())
    popup = completer.popup()
    popup.setFont(font("text"))
    popup.setProperty("kind", "offers")
    popup.setMinimumWidth(190)
    field.setCompleter(completer)
    return completer
