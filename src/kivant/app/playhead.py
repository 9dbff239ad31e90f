"""The playhead: the instant of the plan that is looked at, and playing it by itself."""

from __future__ import annotations

from kivant.app.event import Event
from kivant.app.planning.planning import Planning
from kivant.core.motion.plan import AxisPlan

RATES = (1.0, 0.1, 0.01, 0.001)


class Playhead:
    """An instant of the plan, s; ``moved`` tells of another one, ``changed`` of how it is played."""

    def __init__(self, planning: Planning) -> None:
        self.moved, self.changed = Event(), Event()
        self._planning = planning
        self.time_s = 0.0
        self.rate = RATES[0]
        self.loop = self.playing = False

    def go(self, time_s: float) -> None:
        """Look at another instant of the plan."""
        time_s = min(max(time_s, 0.0), self._planning.duration_s)
        if time_s != self.time_s:
            self.time_s = time_s
            self.moved()

    def keep_up(self) -> None:
        """Stay within a new plan, all of which looks new."""
        self.time_s = min(self.time_s, self._planning.duration_s)
        self.moved()

    def step(self, axis: AxisPlan | None, direction: int) -> None:
        """Go to the next (+1) or previous (-1) step of an axis."""
        if axis is None:
            return
        train = axis.train
        taken = train.taken(self.time_s)
        if direction > 0 and taken < train.count:
            self.go(train.instant(taken))
        elif direction < 0 and taken > 0:
            at = train.instant(taken - 1)
            if at >= self.time_s:
                at = train.instant(taken - 2) if taken > 1 else 0.0
            self.go(at)

    # Playing

    def set_rate(self, rate: float) -> None:
        """Play at another speed, as a share of real time."""
        self.rate = rate
        self.changed()

    def next_rate(self) -> None:
        """Play at the next slower motion, after the slowest in real time."""
        self.set_rate(RATES[(RATES.index(self.rate) + 1) % len(RATES)])

    def set_loop(self, loop: bool) -> None:
        """Begin again at the end when playing, or stop there."""
        self.loop = loop
        self.changed()

    def play(self) -> None:
        """Play from here; at the end, from the beginning."""
        if self._planning.plan and not self.playing:
            if self.time_s >= self._planning.duration_s:
                self.go(0.0)
            self.playing = True
            self.changed()

    def pause(self) -> None:
        """Stand still."""
        if self.playing:
            self.playing = False
            self.changed()

    def advance(self, seconds: float) -> None:
        """Let so much real time pass while playing."""
        if not self.playing:
            return
        self.go(self.time_s + seconds * self.rate)
        if self.time_s >= self._planning.duration_s:
            if self.loop and self._planning.duration_s > 0:
                self.go(0.0)
            else:
                self.pause()
