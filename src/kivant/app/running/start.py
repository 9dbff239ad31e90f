"""Where the newest plan begins, and where the axes stand: what to do before it is run."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal
from fractions import Fraction

from kivant.app.choice import Choice
from kivant.app.planning.planning import Planning
from kivant.app.running.running import Running
from kivant.core.motion.plan import Plan
from kivant.core.quantity import as_decimal
from kivant.core.travel.play import play_of


class Start:
    """The beginning of the newest plan, while nothing runs; a move of one's own begins where the axes stand."""

    def __init__(self, choice: Choice, planning: Planning, running: Running) -> None:
        self._choice, self._planning, self._running = choice, planning, running

    @property
    def _made(self) -> Plan | None:
        fixed = self._choice.routine_name is not None and not self._running.active
        return self._planning.plan if fixed else None

    @property
    def mismatch(self) -> str:
        """A sentence if the plan begins where the axes do not stand, else an empty text."""
        made = self._made
        return "" if made is None else self._running.standing.mismatch(made)

    @property
    def away(self) -> Mapping[str, Decimal]:
        """Where the plan begins with axes that stand elsewhere or came from the other side, by name, in axis units."""
        made = self._made
        return {} if made is None else self._running.standing.away(made)

    def go(self) -> bool:
        """Move the axes on the board to where the plan begins; return whether that was begun.

        An axis with play comes from the side from which it is calibrated.
        """
        from kivant.app.measuring import Target, way_to  # with all that fits: not for the start

        made, away = self._made, self.away
        if made is None or not away:
            return False
        ways = {}
        for axis in made.machine.axes:
            if axis.name in away:
                target, play = Fraction(away[axis.name]), play_of(axis)
                ways[axis.name] = way_to(axis, Target(target, play.first)) if play.steps else [target]
        before, there = ({name: as_decimal(way[end]) for name, way in ways.items()} for end in (0, -1))
        return self._running.go_to(*([before, there] if before != there else [there]))
