"""The recorder: takes down where axes go while they are moved by hand."""

from __future__ import annotations

import time
from collections.abc import Callable

from kivant.app.choice import Choice
from kivant.app.event import Event
from kivant.app.instant import Instant
from kivant.app.running.running import Running
from kivant.core.machine import Routine
from kivant.core.program.poses import kept_place
from kivant.core.program.recording import Sample, recorded

MOST_SAMPLES = 200_000
"""After which a recording goes on no more: more than an hour of motion."""


class Recorder:
    """Samples of all axes, from `begin` to `end`; ``changed`` tells of each."""

    def __init__(
        self, choice: Choice, running: Running, instant: Instant, clock: Callable[[], float] = time.monotonic
    ) -> None:
        self.changed = Event()
        self._choice, self._running, self._instant, self._clock = choice, running, instant, clock
        self.samples: list[Sample] = []
        self._names: tuple[str, ...] | None = None  # of the axes that are recorded
        running.changed.connect(self._look)
        running.arrived.connect(self._take_standing)

    @property
    def on(self) -> bool:
        """Whether it records."""
        return self._names is not None

    @property
    def seconds(self) -> float:
        """How long the recording is, up to the latest sample."""
        return self.samples[-1].seconds - self.samples[0].seconds if self.samples else 0.0

    def begin(self) -> None:
        """Begin where the axes stand."""
        self._names, self.samples = self._axes(), []
        self._take_standing()

    def end(self, tolerance: float) -> Routine | None:
        """End, and return the path that axes went, thinned to a tolerance in their units.

        There is none where nothing was moved, or where the machine has got other axes meanwhile.
        """
        machine = self._choice.machine
        samples = self.samples if self._names == self._axes() else []
        self._names, self.samples = None, []
        self.changed()
        blocks = recorded(machine, samples, tolerance)
        if not blocks:
            return None
        places = zip(machine.axes, samples[0].places, strict=True)
        start = {axis.name: kept_place(axis, place) for axis, place in places}
        return Routine(name="Recorded path", start=start, blocks=blocks)

    def forget(self) -> None:
        """End, and keep nothing."""
        self._names, self.samples = None, []
        self.changed()

    def _axes(self) -> tuple[str, ...]:
        return tuple(axis.name for axis in self._choice.machine.axes)

    def _look(self) -> None:
        if self._instant.counted:
            self._add(tuple(self._instant.position_of(index) for index in range(len(self._axes()))))

    def _take_standing(self) -> None:
        places = self._running.standing.of(self._choice.machine)
        self._add(tuple(float(places.get(name, 0)) for name in self._axes()))

    def _add(self, places: tuple[float, ...]) -> None:
        if self._names is not None and self._names == self._axes() and len(self.samples) < MOST_SAMPLES:
            self.samples.append(Sample(self._clock(), places))
            self.changed()
