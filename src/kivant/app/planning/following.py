"""Following: what the rotors make of the plan, simulated in the background while somebody wants to see it."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from msgspec import Struct, field
from numpy.typing import NDArray

from kivant.app.event import Event
from kivant.app.planning.background import Background, Checkpoint
from kivant.app.planning.planning import Planning, Post
from kivant.core.errors import Fault, KivantError
from kivant.core.motion.curves import Curve, envelope
from kivant.core.plan import Plan

if TYPE_CHECKING:
    from kivant.core.rotor_motion import Motion

MOST_STEPS = 5_000_000
"""Most steps of an axis whose rotor is simulated over a plan."""

_COLUMNS = 1200
_HALF_TURN_DEG = 180.0


class Followed(Struct, frozen=True, eq=False):
    """One rotor over the plan: its motion, its lag over time as a share of half an electrical turn, its slips, s."""

    motion: Motion
    lag: Curve
    slips_s: NDArray[np.float64]


class _Simulation(Struct, eq=False):
    plan: Plan
    found: dict[int, Followed] = field(default_factory=dict)
    faults: dict[int, str] = field(default_factory=dict)


class Following:
    """Simulates every plan while it is `on`; ``changed`` tells of each rotor that is known."""

    def __init__(self, planning: Planning, background: Background, post: Post) -> None:
        self.changed = Event()
        self.on = False
        self._now: _Simulation | None = None
        self._planning, self._background, self._post = planning, background, post
        planning.changed.connect(self.keep_up)

    def switch(self, on: bool) -> None:
        """Simulate, or do not."""
        self.on = on
        self.keep_up()

    @property
    def count(self) -> int:
        """How many rotors are known."""
        return len(self._now.found) + len(self._now.faults) if self._now else 0

    @property
    def busy(self) -> bool:
        """Whether there are more to come."""
        return self._now is not None and self.count < len(self._now.plan.axes)

    def of(self, index: int) -> Followed | None:
        """Return what is known of the rotor of an axis."""
        return self._now.found.get(index) if self._now else None

    def why_not(self, index: int) -> str:
        """Return why a rotor cannot be simulated, an empty text where it can."""
        return self._now.faults.get(index, "") if self._now else ""

    def lag_at(self, index: int, time_s: float) -> float | None:
        """Return by how much a rotor lags behind its field at a time, electrical deg, None where it is not known."""
        found = self.of(index)
        if found is None:
            return None
        trace = found.motion.trace
        return float(np.interp(time_s, trace.times_s, trace.lag_deg)) if len(trace.times_s) else 0.0

    def keep_up(self) -> None:
        """Begin with the plan as it is now, unless that is done."""
        made = self._planning.plan if self.on else None
        if made is None:
            if self._now is not None:
                self._background.drop("following")
                self._now = None
                self.changed()
        elif self._now is None or self._now.plan is not made:
            now = self._now = _Simulation(made)

            def failed(error: KivantError) -> None:
                self._post(lambda: self._fail(now, error))

            self._background.wish(
                "following", lambda checkpoint: self._work(now, checkpoint), lambda _nothing: None, failed
            )
            self.changed()

    def _work(self, now: _Simulation, checkpoint: Checkpoint) -> None:
        from kivant.core.motor.following import follow  # machine code, loaded when it is first wanted

        for index, planned in enumerate(now.plan.axes):
            found: Followed | str
            try:
                if planned.steps > MOST_STEPS:
                    message = f"{planned.name} takes {planned.steps:,} steps; up to {MOST_STEPS:,} are simulated."
                    raise KivantError(Fault("", message, "Choose a shorter routine."))
                motion = follow(now.plan.machine, planned, checkpoint=checkpoint, traced=True)
                trace = motion.trace
                share = np.minimum(np.abs(trace.lag_deg) / _HALF_TURN_DEG, 1.0)
                lag = trace.times_s, share
                if len(share) > 2 * _COLUMNS:
                    lag = envelope(lag, now.plan.duration, _COLUMNS)
                found = Followed(motion, lag, trace.slips_s)
            except KivantError as error:
                found = error.faults[0].said
            self._post(lambda index=index, found=found: self._take(now, index, found))  # type: ignore[misc]

    def _fail(self, now: _Simulation, error: KivantError) -> None:
        for index in range(len(now.plan.axes)):
            if index not in now.found and index not in now.faults:
                self._take(now, index, error.faults[0].said)

    def _take(self, now: _Simulation, index: int, found: Followed | str) -> None:
        if isinstance(found, str):
            now.faults[index] = found
        else:
            now.found[index] = found
        if now is self._now:
            self.changed()
