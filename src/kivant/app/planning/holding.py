"""Holding: which limit of which axis holds each block of the plan back, found in the background."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from kivant.app.event import Event
from kivant.app.planning.background import Background, Checkpoint, wait_for_calm
from kivant.app.planning.planning import HAND_RESTS_S, HOLDING, Planning, Post
from kivant.core.motion.routine import commands
from kivant.core.plan import Plan
from kivant.core.program.held_back import held_back
from kivant.core.program.holder import HeldBack, Limit


class Holder(NamedTuple):
    """An axis by its place (None: the tool), a limit of it, and what all blocks together would save without it, s."""

    axis: int | None
    limit: Limit
    saved_s: float


class Holding:
    """What holds the newest plan back, while it is `on`; ``changed`` tells of it.

    It is worked out before the findings, on their thread: they have little left to look at then. Until it is known,
    what held back the plan before is told, if it has the same blocks and axes: nothing flickers while a hand drags.
    """

    def __init__(self, planning: Planning, background: Background, post: Post) -> None:
        self.changed = Event()
        self.on = False
        self._plan: Plan | None = None
        self._alike = False
        self._found: Mapping[int, HeldBack] = {}
        self._planning, self._background, self._post = planning, background, post
        planning.changed.connect(self.keep_up)

    def switch(self, on: bool) -> None:
        """Look for it, or do not."""
        self.on = on
        self.keep_up()

    @property
    def plan(self) -> Plan | None:
        """The plan of which is told what holds it back: the newest one, or that before it."""
        now = self._planning.plan
        return self._plan if now is not None and (self._plan is now or self._alike) else None

    def of(self, entry: int) -> HeldBack | None:
        """Return what holds back a block, by its entry in the plan's outline."""
        return self._found.get(entry) if self.plan is not None else None

    @property
    def greatest(self) -> Holder | None:
        """What costs the whole plan most."""
        if self.plan is None:
            return None
        sums: dict[tuple[int | None, Limit], float] = {}
        for one in self._found.values():
            if one.limit is not None:
                sums[one.axis, one.limit] = sums.get((one.axis, one.limit), 0.0) + one.saved_s * one.turns
        most = max(sums, key=lambda key: sums[key], default=None)
        return None if most is None else Holder(*most, sums[most])

    def keep_up(self) -> None:
        """Begin with the plan as it is now, unless that is done."""
        made = self._planning.plan if self.on else None
        if made is None:
            self._plan = None
            self._background.drop(HOLDING)
        if made is None or made is self._plan:
            return
        self._alike = self._plan is not None and _alike(self._plan, made)

        def deliver(found: Mapping[int, HeldBack]) -> None:
            self._post(lambda: self._take(made, found))

        self._background.wish(HOLDING, lambda checkpoint: _held(made, checkpoint), deliver, lambda _error: deliver({}))

    def _take(self, made: Plan, found: Mapping[int, HeldBack]) -> None:
        if self.on and made is self._planning.plan:  # nobody may look any more
            self._plan, self._found = made, found
            self.changed()


def _alike(one: Plan, other: Plan) -> bool:
    """Return whether two plans are of one routine and name the same axes, with as many blocks in the same places."""
    listed, others = one.blocks.listed, other.blocks.listed
    return (
        one.routine.name == other.routine.name
        and [axis.name for axis in one.axes] == [axis.name for axis in other.axes]
        and np.array_equal(listed.entries, others.entries)
        and np.array_equal(listed.depth, others.depth)
    )


_SAME = 1.001  # of a modelled time: a plan that takes longer was held back by what is not in the model


def _held(made: Plan, checkpoint: Checkpoint) -> Mapping[int, HeldBack]:
    wait_for_calm(checkpoint, HAND_RESTS_S)  # the plan is painted meanwhile, and not in one go with this
    commanded = commands(made.machine, made.routine, checkpoint)
    took: dict[int, float] = {}
    for entry, seconds in zip(commanded.places.of, _lasted(made).tolist(), strict=True):
        if seconds:
            took.setdefault(entry, seconds)
    found = {}
    for one in held_back(made.machine, commanded, checkpoint):
        told = took.get(one.entry, 0.0) <= one.seconds * _SAME  # else a torque is slower
        found[one.entry] = one if told else one._replace(limit=None, saved_s=0.0)
    return found


def _lasted(made: Plan) -> NDArray[np.float64]:
    """Return how long each block of a plan lasts, s, without the time in which play is taken up."""
    blocks = made.blocks
    times = [np.stack((axis.taken.begin_s, axis.taken.end_s)) for axis in made.axes]
    begin, end = np.unique(np.concatenate(times, axis=1), axis=1) if times else np.zeros((2, 0))
    up_to = np.concatenate(([0.0], np.cumsum(end - begin)))
    first, last = (np.searchsorted(begin, column, "left") for column in (blocks.begin_s, blocks.end_s))
    return np.asarray(blocks.end_s - blocks.begin_s - (up_to[last] - up_to[first]))
