"""Tries: what the motor of the chosen axis makes of its trial move with each shape of ramp, and the fastest safe one.

Rotors are simulated on a thread of their own, so that no plan waits for them.
"""

from __future__ import annotations

from decimal import Decimal
from functools import cached_property
from typing import TYPE_CHECKING, Any

from msgspec import Struct, field

from kivant.app.event import Event
from kivant.app.planning.background import Background, Calm, Checkpoint, wait_for_calm
from kivant.app.planning.planning import Post
from kivant.core.errors import Fault, KivantError
from kivant.core.machine import Machine
from kivant.core.machine.parts import shape_of

if TYPE_CHECKING:
    from kivant.core.ramps.candidates import Candidate, Kind
    from kivant.core.ramps.fastest import Fastest
    from kivant.core.ramps.stall_map import StallMap


class Tried(Struct):
    """What is known of one machine's axis and distance so far."""

    asked: tuple[Any, ...] = ()
    candidates: dict[Kind, Candidate] = field(default_factory=dict)
    reasons: dict[Kind, str] = field(default_factory=dict)
    fastest: Fastest | None = None
    fault: Fault | None = None
    done: bool = False


class Tries:
    """The newest candidates, as far as they are known; ``changed`` tells of each one more."""

    def __init__(self, post: Post, calm: Calm) -> None:
        self.changed = Event()
        self.now = Tried()
        self.seeking = False
        self.map: StallMap | None = None
        self.map_fault: Fault | None = None
        self._mapped: tuple[Any, ...] = ()
        self._post, self._calm = post, calm

    @cached_property
    def _background(self) -> Background:
        """The thread of the simulations, begun when the first one is wanted."""
        return Background(self._calm)

    def close(self) -> None:
        """End what goes on."""
        if "_background" in self.__dict__:
            self._background.close()

    def forget(self) -> None:
        """Forget all: another machine is open."""
        if "_background" in self.__dict__:
            self._background.drop("candidates")
            self._background.drop("fastest")
            self._background.drop("map")
        self.now, self.seeking = Tried(), False
        self.map, self.map_fault, self._mapped = None, None, ()

    def rest(self, *, map_only: bool = False, forget: bool = False) -> None:
        """Simulate nothing while nobody looks; what is not finished is begun again when it is wished again.

        With `forget`, candidates are forgotten that are known already.
        """
        if "_background" not in self.__dict__:
            return
        self._background.drop("map")
        if self.map is None or not self.map.done:
            self._mapped = self._mapped[:1]  # begun again, but of the same axis
        if not map_only:
            for key in ("candidates", "fastest"):
                self._background.drop(key)
            self.seeking = False
            if forget or not self.now.done:
                self.now = Tried()

    def wish(self, machine: Machine, index: int, distance: Decimal) -> None:
        """Ask for the candidates of an axis and a distance, if they are others than were asked for last."""
        axis = machine.axes[index]
        asked = (axis, machine.board, machine.supplies, index, distance)
        if asked == self.now.asked:
            return
        tried = self.now = Tried(asked)
        self._background.drop("fastest")
        self.seeking = False

        def work(checkpoint: Checkpoint) -> None:
            from kivant.core.ramps.candidates import candidates_of  # loaded when somebody looks at a ramp

            def take(kind: Kind, found: Candidate | None, why: str) -> None:
                self._post(lambda: self._take(tried, kind, found, why))

            wait_for_calm(checkpoint)
            candidates_of(machine, index, distance, take, checkpoint)

        def deliver(_nothing: None) -> None:
            tried.done = True  # every kind is known, or why there is none

        self._background.wish("candidates", work, deliver, lambda error: self._post(lambda: self._fail(tried, error)))
        self.changed()

    def _take(self, tried: Tried, kind: Kind, found: Candidate | None, why: str) -> None:
        if found is not None:
            tried.candidates[kind] = found
        else:
            tried.reasons[kind] = why
        if tried is self.now:
            self.changed()

    def _fail(self, tried: Tried, error: KivantError) -> None:
        from kivant.core.ramps.candidates import KINDS

        for kind in KINDS:
            if kind not in tried.candidates and kind not in tried.reasons:
                self._take(tried, kind, None, error.faults[0].said)
        tried.done = True

    def seek(self, machine: Machine, index: int, distance: Decimal) -> None:
        """Look for the fastest safe ramp of the axis's own shape over a distance."""
        self.wish(machine, index, distance)
        tried, self.seeking = self.now, True
        shape = shape_of(machine.axes[index].limits)

        def work(checkpoint: Checkpoint) -> Fastest:
            from kivant.core.ramps.fastest import fastest_ramp

            return fastest_ramp(machine, index, distance, shape, checkpoint=checkpoint)

        def deliver(found: Fastest | Fault) -> None:
            self._post(lambda: self._found(tried, found))

        self._background.wish("fastest", work, deliver, lambda error: deliver(error.faults[0]))
        self.changed()

    def _found(self, tried: Tried, found: Fastest | Fault) -> None:
        if tried is not self.now:
            return
        self.seeking = False
        tried.fastest, tried.fault = (None, found) if isinstance(found, Fault) else (found, None)
        self.changed()

    def wish_map(self, machine: Machine, index: int) -> None:
        """Ask for the stall map of an axis, if it is another one than was asked for last."""
        from kivant.core.ramps.stall_map import ranges_of, stall_map

        axis = machine.axes[index]
        # What the axis is asked for is a point on the map, and no part of it as long as it lies within.
        parts = (axis.motor, axis.driver, axis.travel, axis.load, axis.calibration, axis.margin, axis.positive)
        asked = (index, *parts, machine.board, machine.supplies, ranges_of(machine, axis))
        if asked == self._mapped:
            return
        if self._mapped[:1] != asked[:1]:
            self.map = None  # it is another axis's
        self._mapped, self.map_fault = asked, None

        def work(checkpoint: Checkpoint) -> None:
            wait_for_calm(checkpoint)
            stall_map(machine, axis, lambda found: self._post(lambda: self._take_map(asked, found)), checkpoint)

        def failed(error: KivantError) -> None:
            self._post(lambda: self._take_map(asked, None, error.faults[0]))

        self._background.wish("map", work, lambda _nothing: None, failed)

    def _take_map(self, asked: tuple[Any, ...], found: StallMap | None, fault: Fault | None = None) -> None:
        if asked is self._mapped:
            self.map, self.map_fault = found, fault
            self.changed()
