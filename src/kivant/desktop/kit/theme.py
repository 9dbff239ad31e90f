"""Colours, letters and line patterns of the window, by name. Widgets name a token, never a colour."""

from __future__ import annotations

from functools import cache
from pathlib import Path
from types import MappingProxyType
from typing import Literal

from msgspec import Struct
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QFont, QFontDatabase, QPalette, QPen
from PySide6.QtWidgets import QApplication

Token = Literal["paper", "sheet", "edge", "ink", "muted", "accent", "good", "warn", "bad"]
Role = Literal["title", "heading", "text", "strong", "small", "figure", "large"]

_TOKENS: MappingProxyType[str, tuple[str, str]] = MappingProxyType(
    {  # day, night
        "paper": ("#F7F4EE", "#1B1E24"),
        "sheet": ("#FCFAF5", "#23272F"),
        "edge": ("#D9D2C3", "#3A404B"),
        "ink": ("#1F2430", "#E8E6E1"),
        "muted": ("#6B6F76", "#9AA0A8"),
        "accent": ("#0E6E83", "#45A9BD"),
        "good": ("#3B7A57", "#6DB48C"),
        "warn": ("#B7791F", "#E0A94A"),
        "bad": ("#B23A48", "#E0707C"),
    }
)
_AXES = (
    ("#7B3F7D", "#C58BC7"),  # plum
    ("#1B7F79", "#55B8B1"),  # teal
    ("#B8791B", "#DDA450"),  # ochre
    ("#4A6FA5", "#8FB0DF"),  # slate
    ("#5E7F35", "#9DBF72"),  # moss
    ("#A8503A", "#D98A74"),  # brick
)
# Line patterns in pen widths (on, off, ...): the second way to tell axes apart.
PATTERNS: tuple[tuple[float, ...], ...] = ((), (7, 3), (2, 2.5), (9, 3, 2, 3), (4, 2.5, 4, 6), (12, 4))
_ROLES: MappingProxyType[str, tuple[str, int, int]] = MappingProxyType(
    {  # family, pixels, weight
        "title": ("Barlow", 21, 600),
        "heading": ("Barlow", 16, 500),
        "text": ("Barlow Semi Condensed", 14, 400),
        "strong": ("Barlow Semi Condensed", 14, 600),
        "small": ("Barlow Semi Condensed", 13, 400),
        "figure": ("Barlow Semi Condensed", 17, 500),
        "large": ("Barlow Semi Condensed", 30, 500),
    }
)


class Theme(Struct, frozen=True):
    """One design in two lights."""

    night: bool = False

    def color(self, token: Token) -> QColor:
        """Return the colour of a token."""
        return QColor(_TOKENS[token][self.night])

    def axis(self, index: int) -> QColor:
        """Return the hue of an axis by its place in the machine."""
        return QColor(_AXES[index % len(_AXES)][self.night])

    def tint(self, color: QColor, share: float) -> QColor:
        """Return a colour laid thinly over the ground."""
        thin = color.toRgb()
        thin.setAlphaF(share)
        return thin

    def pen(self, color: QColor, width: float = 1.0, axis: int | None = None) -> QPen:
        """Return a pen; with an axis's index it has the axis's pattern."""
        pen = QPen(color, width)
        pen.setCapStyle(Qt.PenCapStyle.FlatCap)
        # Where the hues begin again, the patterns are one further on: no two of many axes look alike.
        pattern = PATTERNS[(axis + axis // len(_AXES)) % len(PATTERNS)] if axis is not None else ()
        if pattern:
            pen.setDashPattern([part / width for part in pattern])
        return pen

    def palette(self) -> QPalette:
        """Return the palette for the toolkit's own widgets."""
        palette = QPalette()
        roles = {
            QPalette.ColorRole.Window: "paper",
            QPalette.ColorRole.Base: "sheet",
            QPalette.ColorRole.AlternateBase: "paper",
            QPalette.ColorRole.Button: "sheet",
            QPalette.ColorRole.WindowText: "ink",
            QPalette.ColorRole.Text: "ink",
            QPalette.ColorRole.ButtonText: "ink",
            QPalette.ColorRole.PlaceholderText: "muted",
            QPalette.ColorRole.ToolTipBase: "sheet",
            QPalette.ColorRole.ToolTipText: "ink",
            QPalette.ColorRole.Highlight: "accent",
            QPalette.ColorRole.HighlightedText: "sheet",
            QPalette.ColorRole.Link: "accent",
            QPalette.ColorRole.Mid: "edge",
        }
        for role, token in roles.items():
            palette.setColor(role, QColor(_TOKENS[token][self.night]))
        disabled = QPalette.ColorGroup.Disabled
        for role in (QPalette.ColorRole.Text, QPalette.ColorRole.ButtonText, QPalette.ColorRole.WindowText):
            palette.setColor(disabled, role, self.color("muted"))
        return palette

    def style_sheet(self) -> str:
        """Return the style of buttons, fields and lists."""
        names = {token: pair[self.night] for token, pair in _TOKENS.items()}
        return _STYLE.format(**names)


_FONTS = Path(__file__).parents[1] / "fonts"
VALUE_INSET = 3
"""Border and padding of a value's field to either side, px; marked as wrong, focused or neither, it is the same."""
_STYLE = """
QToolTip {{ background: {sheet}; color: {ink}; border: 1px solid {edge}; padding: 4px; }}
QPushButton {{ background: {sheet}; color: {ink}; border: 1px solid {edge}; border-radius: 6px;
  padding: 5px 14px; }}
QPushButton {{ outline: none; }}
QPushButton:hover {{ border-color: {muted}; }}
QPushButton:focus, QLineEdit:focus, QComboBox:focus {{ border: 2px solid {accent}; padding: 4px 13px; }}
QPushButton:disabled {{ color: {muted}; background: {paper}; }}
QPushButton[kind="main"] {{ background: {accent}; color: {sheet}; border-color: {accent}; }}
QPushButton[kind="main"]:focus {{ border-color: {ink}; }}
QPushButton[kind="main"]:disabled {{ background: {paper}; color: {muted}; border-color: {edge}; }}
QPushButton[kind="stop"] {{ background: {bad}; color: {sheet}; border-color: {bad}; border-radius: 8px; }}
QPushButton[kind="stop"]:focus {{ border-color: {ink}; }}
QPushButton[kind="plain"] {{ background: transparent; border-color: transparent; color: {accent}; padding: 4px 7px; }}
QPushButton[kind="plain"]:checked {{ border-color: {accent}; font-weight: 600; }}
QPushButton[kind="plain"]:hover {{ border-color: {edge}; }}
QPushButton[kind="plain"]:focus {{ border: 2px solid {accent}; padding: 3px 6px; }}
QPushButton[kind="plain"]:disabled {{ color: {muted}; background: transparent; }}
QPushButton[kind="word"] {{ background: transparent; border: 1px solid transparent; border-bottom: 1px dotted {muted};
  border-radius: 0; padding: 1px 4px; text-align: left; font-weight: 600; }}
QPushButton[kind="word"]:hover {{ border-bottom: 1px solid {accent}; }}
QPushButton[kind="word"]:focus {{ border: 1px solid {accent}; border-radius: 4px; padding: 1px 4px; }}
QPushButton[kind="word"]:disabled {{ color: {ink}; border-bottom-color: transparent; }}
QPushButton[kind="word"]::menu-indicator {{ image: none; width: 0; }}
QPushButton[kind="face"] {{ background: transparent; border: none; border-bottom: 3px solid transparent;
  border-radius: 0; color: {muted}; padding: 3px 7px; }}
QPushButton[kind="face"]:checked {{ color: {ink}; border-bottom-color: {accent}; }}
QPushButton[kind="face"]:hover {{ color: {ink}; }}
QPushButton[kind="face"]:focus {{ border: 1px solid {accent}; border-radius: 4px; padding: 4px 6px; }}
QLineEdit, QComboBox {{ background: {sheet}; color: {ink}; border: 1px solid {edge}; border-radius: 5px;
  padding: 4px 8px; selection-background-color: {accent}; selection-color: {sheet}; }}
QLineEdit:focus, QComboBox:focus {{ padding: 3px 7px; }}
QLineEdit[kind="value"] {{ background: transparent; border: 1px solid transparent; border-bottom: 1px dotted {muted};
  border-radius: 0; padding: 1px 2px; }}
QLineEdit[kind="value"]:hover {{ border-bottom: 1px solid {accent}; }}
QLineEdit[kind="value"]:focus {{ background: {sheet}; border: 1px solid {accent}; border-radius: 4px;
  padding: 1px 2px; }}
QLineEdit[kind="value"]:disabled {{ border-bottom-color: transparent; }}
QLineEdit[wrong="true"] {{ border: 2px solid {bad}; padding: 3px 7px; }}
QLineEdit[kind="value"][wrong="true"] {{ border: 2px solid {bad}; padding: 0 1px; }}
QLineEdit:disabled, QComboBox:disabled {{ color: {muted}; background: {paper}; }}
QComboBox::drop-down {{ border: none; width: 20px; }}
QComboBox QAbstractItemView {{ background: {sheet}; color: {ink}; border: 1px solid {edge};
  selection-background-color: {accent}; selection-color: {sheet}; outline: none; }}
QScrollBar {{ background: transparent; width: 9px; height: 9px; margin: 0; }}
QScrollBar::handle {{ background: {edge}; border-radius: 4px; min-height: 24px; min-width: 24px; }}
QScrollBar::add-line, QScrollBar::sub-line, QScrollBar::add-page, QScrollBar::sub-page {{
  background: none; border: none; width: 0; height: 0; }}
QListView[kind="offers"] {{ background: {sheet}; color: {ink}; border: 1px solid {edge}; padding: 3px;
    selection-background-color: {accent}; selection-color: {sheet}; outline: 0; }}
QTreeView {{ background: {sheet}; color: {ink}; border: none; outline: 0;
  selection-background-color: transparent; }}
QHeaderView {{ background: {paper}; border: none; }}
QHeaderView::section {{ background: {paper}; color: {muted}; border: none; border-bottom: 1px solid {edge};
  padding: 3px 6px 4px 6px; }}
QSplitter::handle {{ background: transparent; }}
QMenu {{ background: {sheet}; color: {ink}; border: 1px solid {edge}; padding: 4px; }}
QMenu::item {{ padding: 5px 22px; }}
QMenu::item:selected {{ background: {accent}; color: {sheet}; }}
QMenu::item:disabled {{ color: {muted}; }}
"""


@cache
def load_fonts() -> tuple[str, ...]:
    """Make the bundled letters known to the toolkit; return the families found."""
    families: list[str] = []
    for file in sorted(_FONTS.iterdir()):
        if file.suffix == ".ttf":
            number = QFontDatabase.addApplicationFont(str(file))
            families.extend(QFontDatabase.applicationFontFamilies(number))
    return tuple(families)


@cache
def font(role: Role) -> QFont:
    """Return the letters of a role, with digits that are all equally wide."""
    family, pixels, weight = _ROLES[role]
    found = QFont(family)
    found.setPixelSize(pixels)
    found.setWeight(QFont.Weight(weight))
    found.setFeature(QFont.Tag("tnum"), 1)
    return found


def apply(app: QApplication, theme: Theme) -> None:
    """Give the whole application a theme."""
    load_fonts()
    app.setFont(font("text"))
    app.setPalette(theme.palette())
    app.setStyleSheet(theme.style_sheet())
