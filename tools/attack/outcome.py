"""What came of an attack."""

from __future__ import annotations

from msgspec import Struct, field


class Outcome(Struct):
    """How often something was tried, what broke, and the worst that was measured, in words."""

    tries: int = 0
    defects: list[str] = field(default_factory=list)
    worst: str = ""

    def check(self, holds: bool, defect: str) -> None:
        """Count a try; keep what broke if it does not hold."""
        self.tries += 1
        if not holds:
            self.defects.append(defect)
