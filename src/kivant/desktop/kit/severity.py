"""How errors, warnings and notes look: a sign and a colour for each, the gravest first."""

from __future__ import annotations

from kivant.core.findings.finding import Severity
from kivant.desktop.kit.theme import Token

LOOKS: tuple[tuple[Severity, str, Token], ...] = (
    ("error", "✕", "bad"),
    ("warning", "!", "warn"),
    ("note", "i", "accent"),
)


def looks(severity: Severity) -> tuple[str, Token]:
    """Return the sign and the colour's token of a severity."""
    return next((sign, token) for name, sign, token in LOOKS if name == severity)
