"""Trials: the trial move of the chosen axis, made anew in the background while somebody looks at it."""

from __future__ import annotations

import re
from decimal import Decimal
from typing import Any

from kivant.app.event import Event
from kivant.app.planning.background import Background, Checkpoint
from kivant.app.planning.planning import Post
from kivant.core.errors import Fault, KivantError
from kivant.core.machine import Axis, Machine
from kivant.core.motion.trial import DEFAULT_DISTANCE, TrialMove, trial_move
from kivant.core.quantity import as_decimal, position, speed


class Trials:
    """The newest trial move, or why there is none; ``changed`` tells of every other one.

    A distance belongs to an axis of the machine that is open, by name, and is forgotten with the machine.
    """

    def __init__(self, background: Background, post: Post) -> None:
        self.changed = Event()
        self.move: TrialMove | None = None
        self.error: KivantError | None = None
        self.busy = False
        self._background, self._post = background, post
        self._distances: dict[str, Decimal] = {}
        self._changes: dict[str, tuple[float, float]] = {}
        self._asked: tuple[Machine, int, Any] | None = None

    def forget(self) -> None:
        """Forget all distances: another machine is open."""
        self._distances, self._changes, self._asked = {}, {}, None
        self.move = self.error = None
        self.busy = False

    def distance(self, axis: Axis) -> Decimal:
        """Return how far the axis is tried, in its units."""
        return self._distances.get(axis.name, DEFAULT_DISTANCE[axis.unit])

    def change(self, axis: Axis) -> tuple[float, float] | None:
        """Return the speeds between which the axis is tried, in its units; None where that is over a distance."""
        return self._changes.get(axis.name)

    def set_distance(self, axis: Axis, text: str) -> None:
        """Try the axis over another distance, or between two speeds, as typed: ``40mm``, ``20 to 60mm/s``.

        Raises
        ------
        ValueTextError
            If the text cannot be understood.
        """
        first, to, last = (part.strip() for part in text.partition(" to "))
        if to:
            asked = speed(axis)
            unit = re.sub(r"^[\d.eE+\s-]+", "", last)
            begin = first + unit if re.fullmatch(r"[\d.]+", first) else first
            self._changes[axis.name] = float(asked.parse(begin)), float(asked.parse(last))
        else:
            self._distances[axis.name] = as_decimal(position(axis).parse(text))
            self._changes.pop(axis.name, None)

    def wish(self, machine: Machine, index: int) -> None:
        """Ask for the trial move of an axis, if it is another one than was asked for last."""
        distance, change = self.distance(machine.axes[index]), self.change(machine.axes[index])
        last = self._asked
        if last is not None and last[1:] == (index, change or distance) and _same_axis(last[0], machine, index):
            return
        self._asked, self.busy = (machine, index, change or distance), True

        def work(checkpoint: Checkpoint) -> TrialMove:
            if change is not None:
                from kivant.core.ramps.speed_change import speed_change

                made = speed_change(machine, index, *change)
            else:
                made = trial_move(machine, index, distance, checkpoint)
            _ = made.intervals_s  # computed here, and not while it is painted
            return made

        asked = self._asked

        def deliver(made: TrialMove | KivantError) -> None:
            self._post(lambda: self._take(asked, made))

        self._background.wish("trial", work, deliver, deliver)

    def _take(self, asked: object, made: TrialMove | KivantError) -> None:
        if asked is not self._asked:
            return  # superseded on its way here
        self.busy = False
        if isinstance(made, TrialMove):
            self.move, self.error = made, None
        else:
            self.move, self.error = None, made
        self.changed()

    @property
    def fault(self) -> Fault | None:
        """Why there is no trial move, None where there is one."""
        return self.error.faults[0] if self.error else None


def _same_axis(before: Machine, now: Machine, index: int) -> bool:
    """Return whether an axis and its board are the same in two machines."""
    there = index < len(before.axes) and index < len(now.axes)
    return there and before.axes[index] == now.axes[index] and before.board == now.board
