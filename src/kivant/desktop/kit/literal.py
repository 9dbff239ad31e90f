"""Texts from outside where Qt would take markup in them for its own: tool tips, questions, menus."""

from __future__ import annotations

from PySide6.QtGui import Qt

from kivant.core.errors import printable


def literal(text: str) -> str:
    """Return a text so that Qt shows it as it stands, markup and control characters included."""
    lines = "\n".join(map(printable, text.split("\n")))
    if not Qt.mightBeRichText(lines):
        return lines
    import html  # not for the start, which seldom meets markup

    return f"<qt>{html.escape(lines)}</qt>".replace("\n", "<br>")


def unaccelerated(text: str) -> str:
    """Return a text so that a menu shows its ampersands, and makes no key of what follows them."""
    return printable(text).replace("&", "&&")
