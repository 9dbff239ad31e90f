"""The instant: what is to be seen of the axes now, at the playhead or as counted while one is moved by hand."""

from __future__ import annotations

import numpy as np

from kivant.app.choice import Choice
from kivant.app.planning.planning import Planning
from kivant.app.playhead import Playhead
from kivant.app.running.running import Running
from kivant.core.motion.plan import AxisPlan

_SOON = 3  # blocks within which a movement is told


class Instant:
    """Positions and speeds at this instant; nothing in it changes anything."""

    def __init__(self, choice: Choice, planning: Planning, playhead: Playhead, running: Running) -> None:
        self._choice, self._planning, self._playhead, self._running = choice, planning, playhead, running

    @property
    def axis_plan(self) -> AxisPlan | None:
        """The plan of the chosen axis; None without one, or where the axis is newer than the plan."""
        made, index = self._planning.plan, self._choice.index
        return made.axes[index] if made and index < len(made.axes) else None

    @property
    def counted(self) -> tuple[int, ...]:
        """What the board has counted for each axis while one is moved by hand; empty at all other times."""
        status = self._running.status
        return status.counts if self._running.by_hand and status else ()

    @property
    def steps(self) -> int:
        """At which step the chosen axis stands."""
        counted, index = self.counted, self._choice.index
        if index < len(counted):
            return counted[index]
        planned = self.axis_plan
        return planned.train.position_after(planned.train.taken(self._playhead.time_s)) if planned else 0

    @property
    def steps_moved(self) -> int:
        """How many steps the chosen axis stands from where its motion began, with sign."""
        streamer = self._running.streamer
        index, starts = self._choice.index, streamer.start_steps if streamer else ()
        if index < len(self.counted) and index < len(starts):
            return self.steps - starts[index]
        planned = self.axis_plan
        return self.steps - planned.start_steps if planned else 0

    @property
    def speed(self) -> float:
        """How fast the chosen axis goes at the playhead, axis units/s, without sign."""
        planned = self.axis_plan
        return abs(planned.train.speed_at(self._playhead.time_s)) / float(planned.steps_per_unit) if planned else 0.0

    def way_of(self, index: int) -> tuple[float, float] | None:
        """Return from where to where an axis goes now, or next if that is soon, in axis units; None where it rests.

        Of an axis that wraps this is the way it takes, and not only where it ends.
        """
        made = self._planning.plan
        if made is None or index >= len(made.axes) or self.counted:
            return None
        planned, blocks = made.axes[index], made.blocks
        first = int(np.searchsorted(blocks.end_s, self._playhead.time_s, "right"))
        for block in range(first, min(first + _SOON, len(blocks))):
            ends = [planned.ideal_at(float(times[block])) for times in (blocks.begin_s, blocks.end_s)]
            if ends[0] != ends[1]:
                ratio = float(planned.steps_per_unit)
                return ends[0] / ratio, ends[1] / ratio
        return None

    def position_of(self, index: int) -> float:
        """Return where an axis stands, in axis units."""
        if index < len(self.counted) and index < len(self._choice.machine.axes):
            axis = self._choice.machine.axes[index]
            return float(self._running.followed.places.get(axis.name, 0))
        made = self._planning.plan
        if made is None or index >= len(made.axes):
            return self._begin_of(index)
        planned = made.axes[index]
        return planned.ideal_at(self._playhead.time_s) / float(planned.steps_per_unit)

    def _begin_of(self, index: int) -> float:
        """Return where an axis is when the chosen routine begins: all that is known where there is no plan."""
        machine, name = self._choice.machine, self._choice.routine_name
        chosen = next((routine for routine in machine.routines if routine.name == name), None)
        begins = (chosen.start or {}) if chosen else self._running.standing.of(machine)
        return float(begins.get(machine.axes[index].name, 0)) if index < len(machine.axes) else 0.0
