"""What a window asks about files: the standard dialogs, loaded when the first one is shown."""

from __future__ import annotations

from pathlib import Path
from typing import Literal

from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget

from kivant.desktop.kit.literal import literal
from kivant.files.project import SUFFIX

FILTER = f"Kivant machines (*{SUFFIX})"


def file_to_open(window: QWidget, beside: Path | None) -> Path | None:
    """Let the user choose a machine to open, first in the folder of another file; None if no one is chosen."""
    name, _filter = QFileDialog.getOpenFileName(window, "Open a machine", str(beside.parent) if beside else "", FILTER)
    return Path(name) if name else None


def file_to_save(window: QWidget, suggestion: str) -> Path | None:
    """Let the user choose where to save; a name without a suffix gets ours. None if no place is chosen."""
    name, _filter = QFileDialog.getSaveFileName(window, "Save the machine", suggestion, FILTER)
    path = Path(name)
    return (path if path.suffix else path.with_suffix(SUFFIX)) if name else None


STEPS, LEVELS, PLACES = "Steps (*.csv)", "Line levels (*.vcd)", "Steps, and where the tool is (*.csv)"


def file_to_export(window: QWidget, suggestion: str, *, tool: bool) -> tuple[Path, bool, bool] | None:
    """Let the user choose where to write a plan, and as what; None if no place is chosen.

    Beside the path: whether a file there may be replaced, and whether the places of the tool are wanted.
    """
    filters = ";;".join([STEPS, LEVELS, *([PLACES] if tool else [])])
    name, chosen = QFileDialog.getSaveFileName(window, "Export the plan", suggestion, filters)
    if not name:
        return None
    path, suffix = Path(name), ".vcd" if chosen == LEVELS else ".csv"
    asked = path.suffix.lower() in (".csv", ".vcd")  # the dialog has asked whether that one may be replaced
    return path if asked else path.with_name(path.name + suffix), asked, chosen == PLACES


def may_replace(window: QWidget, path: Path) -> bool:
    """Ask whether a file that another program has changed may be replaced."""
    text = f"{path.name} has been changed by another program since it was opened. Replace it?"
    return _is_yes(window, "Changed by another program", text)


def may_overwrite(window: QWidget, path: Path) -> bool:
    """Ask whether a file that is there may be replaced."""
    return _is_yes(window, "The file exists", f"{path.name} is there already. Replace it?")


def _is_yes(window: QWidget, title: str, text: str) -> bool:
    buttons = QMessageBox.StandardButton
    return QMessageBox.question(window, title, literal(text), buttons.Yes | buttons.Cancel) == buttons.Yes


def what_of_changes(window: QWidget, machine: str) -> Literal["save", "discard", "cancel"]:
    """Ask what is to become of the unsaved changes of a machine."""
    buttons = QMessageBox.StandardButton
    offered = buttons.Save | buttons.Discard | buttons.Cancel
    answer = QMessageBox.question(window, "Unsaved changes", literal(f"{machine} has unsaved changes."), offered)
    return "save" if answer == buttons.Save else "discard" if answer == buttons.Discard else "cancel"
