"""Where the newest plan begins, and where the axes stand: what to do before it is run."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal

from kivant.app.planning.planning import Planning
from kivant.app.running.running import Running


class Start:
    """The beginning of the newest plan, while nothing runs."""

    def __init__(self, planning: Planning, running: Running) -> None:
        self._planning, self._running = planning, running

    @property
    def mismatch(self) -> str:
        """A sentence if the plan begins where the axes do not stand, else an empty text."""
        made = self._planning.plan
        return "" if made is None or self._running.active else self._running.standing.mismatch(made)

    @property
    def away(self) -> Mapping[str, Decimal]:
        """Where the plan begins with axes that stand elsewhere, by their names, in axis units."""
        made = self._planning.plan
        return {} if made is None or self._running.active else self._running.standing.away(made)

    def go(self) -> bool:
        """Move the axes on the board to where the plan begins; return whether that was begun."""
        away = self.away
        return bool(away) and self._running.go_to(away)
