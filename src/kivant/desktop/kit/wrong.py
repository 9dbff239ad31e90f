"""Fields that say that what stands in them is wrong."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget


def mark_wrong(field: QWidget, *, wrong: bool) -> None:
    """Let a field look as the style sheet has it for what is wrong, or as usual."""
    if bool(field.property("wrong")) != wrong:
        field.setProperty("wrong", wrong)
        field.style().unpolish(field)
        field.style().polish(field)
