"""How much memory a plan may take on this computer."""

from __future__ import annotations

import os


def available_bytes() -> int:
    """Return how much memory a plan may take: half of what the computer has."""
    return os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES") // 2
