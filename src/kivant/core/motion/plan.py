"""Plans as data: what every axis does, and when each block begins and ends."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from fractions import Fraction
from typing import NamedTuple, overload

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from kivant.core.errors import KivantError
from kivant.core.kept import kept
from kivant.core.machine.parts import Axis, Machine, Routine, find_named
from kivant.core.motion.blocks import Block
from kivant.core.motion.lost_motion import NOTHING_TAKEN, Taken
from kivant.core.motion.outline import Places
from kivant.core.motion.segment import Reals, Wholes
from kivant.core.motion.train import StepTrain
from kivant.core.path import Path
from kivant.core.travel.play import Sense, play_of

MOST_STEPS = 8_000
"""Steps of an axis that are written at a time: so few that what is made of them stays in the processor's cache."""


class PlanError(KivantError):
    """No plan can be made; ``faults`` says what forbids it."""


class PlannedBlock(Struct, frozen=True):
    """When a block begins and ends, in s from the plan's start; a wait for a driver comes before it.

    ``path`` leads from the routine to the block.
    """

    path: Path
    block: Block
    begin_s: float
    end_s: float


class Listed(NamedTuple):
    """The blocks of a routine as they stand there, in columns.

    A block that is repeated has the times of its first turn, a repeat those of all its turns, and one that does nothing
    begins and ends where the one before it ends, s. ``depth`` is 0 for a block of the routine itself.
    """

    begin_s: Reals
    end_s: Reals
    depth: Wholes
    entries: Wholes
    places: Places

    def path(self, index: int) -> Path:
        """Return the path from the routine to a block."""
        return self.places.entry_path(int(self.entries[index]))

    def block(self, index: int) -> Block:
        """Return a block."""
        return self.places.blocks[int(self.entries[index])]


class PlannedBlocks(Sequence[PlannedBlock]):
    """The blocks of a plan in time order, kept as columns: a block is made when it is asked for."""

    def __init__(self, places: Places, begin_s: Reals, end_s: Reals, start_s: float = 0.0) -> None:
        """Take where each block stands in the routine, its times, s, shape (blocks,), and when the first may begin."""
        self.begin_s, self.end_s, self.start_s = begin_s, end_s, start_s
        self._places = places

    def __len__(self) -> int:
        return len(self.begin_s)

    @kept
    def listed(self) -> Listed:
        """Every block of the routine as it stands there, once each, those in another one right behind it."""
        own = self._places
        entries = np.array(own.shown(), np.int64)
        first, end = (np.array(column, np.int64)[entries] for column in (own.first, own.end))
        after = np.concatenate(([self.start_s], self.end_s))
        begin = np.where(end > first, np.append(self.begin_s, self.start_s)[first], after[first])
        depth = np.array(own.depths(), np.int64)[entries]
        return Listed(begin, after[end], depth, entries, own)

    @kept
    def deepest(self) -> int:
        """How deep the deepest block lies: 0 in a routine without blocks inside of blocks."""
        return int(self.listed.depth.max(initial=0))

    @overload
    def __getitem__(self, index: int) -> PlannedBlock: ...

    @overload
    def __getitem__(self, index: slice) -> tuple[PlannedBlock, ...]: ...

    def __getitem__(self, index: int | slice) -> PlannedBlock | tuple[PlannedBlock, ...]:
        if isinstance(index, slice):
            return tuple(self[k] for k in range(*index.indices(len(self))))
        row = range(len(self))[index]
        times = float(self.begin_s[row]), float(self.end_s[row])
        return PlannedBlock(self._places.path(row), self._places.block(row), *times)


class AxisPlan(Struct, frozen=True, dict=True):
    """What one axis does in a plan."""

    axis: Axis
    steps_per_unit: Fraction
    train: StepTrain
    taken: Taken = NOTHING_TAKEN

    @property
    def name(self) -> str:
        """The axis's name."""
        return self.axis.name

    @kept
    def instants(self) -> NDArray[np.float64]:
        """When each step happens: s from the plan's start, ascending, shape (steps,), read-only."""
        instants = self.train.instants()
        instants.flags.writeable = False
        return instants

    @kept
    def signs(self) -> NDArray[np.int8]:
        """The direction of each step, +1 or -1, shape (steps,), read-only."""
        signs = self.train.signs()
        signs.flags.writeable = False
        return signs

    def ideal(self, times_s: NDArray[np.float64] | float) -> NDArray[np.float64]:
        """Return the exact commanded position of the tool at `times_s` (s from the plan's start), in steps.

        The motor stands beside it by the play that is taken up; while that is done, the tool stands.
        """
        if not self.has_play:
            return self.train.ideal(times_s)
        times = np.asarray(times_s, dtype=np.float64)
        at, offsets = self.taken.at(times)
        return self.train.ideal(at) - offsets

    def ideal_at(self, time_s: float) -> float:
        """Return what `ideal` returns for one time, in a fraction of its time."""
        return float(self.ideal(time_s)) if self.has_play else self.train.ideal_at(time_s)

    @property
    def has_play(self) -> bool:
        """Whether the motor is ever beside the tool."""
        return bool(self.taken.offsets.any())

    def beside_at(self, time_s: float) -> int:
        """Return by how many steps the motor stands beside the tool; while play is taken up, by those gone so far."""
        begun = int(self.taken.begin_s.searchsorted(time_s, "right"))
        if not begun or time_s >= self.taken.end_s[begun - 1]:
            return int(self.taken.offsets[begun])
        begin, now = (self.train.position_after(self.train.taken(at)) for at in (self.taken.begin_s[begun - 1], time_s))
        return int(self.taken.offsets[begun - 1]) + now - begin

    def sense_at(self, time_s: float) -> Sense:
        """Return where the axis is in its play."""
        return play_of(self.axis).sense(self.beside_at(time_s))

    @property
    def steps(self) -> int:
        """How many steps the axis takes, in both directions together."""
        return self.train.count

    @property
    def start_steps(self) -> int:
        """Position before the plan, in whole steps."""
        return self.train.ends.start_steps

    @property
    def final_steps(self) -> int:
        """Position at the end, in whole steps."""
        return self.train.ends.end_steps

    @property
    def final_position(self) -> float:
        """Position of the tool reached at the end, in axis units."""
        return float((self.final_steps - int(self.taken.offsets[-1])) / self.steps_per_unit)

    @kept
    def peak_pulse_hz(self) -> float:
        """The greatest speed, in steps/s."""
        return float(np.max(np.abs(self.train.corners()[1]), initial=0.0))

    @property
    def peak_speed(self) -> float:
        """The greatest speed, in axis units/s."""
        return self.peak_pulse_hz / float(self.steps_per_unit)

    @property
    def peak_acceleration(self) -> float:
        """The greatest acceleration or deceleration, in axis units/s²."""
        rates = self.train.course()[2]
        return float(np.max(np.abs(rates), initial=0.0)) / float(self.steps_per_unit)


class Plan(Struct, frozen=True):
    """The computed outcome of a routine.

    Parameters
    ----------
    machine : Machine
    routine : Routine
    lead_in_s : float, s
        Time for the drivers to be enabled before anything moves.
    duration : float, s
        From the plan's start to its end, the lead-in included, and the time for which the last step must stand
        where power is taken away at rest.
    blocks : sequence of PlannedBlock
    axes : tuple of AxisPlan
        In the order of the machine's axes.
    """

    machine: Machine
    routine: Routine
    lead_in_s: float
    duration: float
    blocks: PlannedBlocks
    axes: tuple[AxisPlan, ...]

    @property
    def powered_s(self) -> float:
        """Until when the drivers that are off at rest are on, s: 0 for a plan without motion."""
        return self.duration if any(axis.steps for axis in self.axes) else 0.0

    def axis(self, name: str) -> AxisPlan:
        """Return the plan of the axis called `name`.

        Raises
        ------
        KeyError
            If the machine has no such axis.
        """
        return find_named(self.axes, name)

    def slices(self, most_steps: int = MOST_STEPS) -> Iterator[tuple[slice, ...]]:
        """Yield, for each axis, which of its steps belong to the next span of time.

        The spans follow one another and hold at most `most_steps` of each axis, so that an export needs no
        memory for all axes' steps in time order.
        """
        done = [0] * len(self.axes)
        while any(d < a.steps for d, a in zip(done, self.axes, strict=True)):
            ahead = [
                a.instants[d + most_steps] for d, a in zip(done, self.axes, strict=True) if d + most_steps < a.steps
            ]
            until = min(ahead, default=np.inf)
            upto = [int(np.searchsorted(a.instants, until)) for a in self.axes]
            yield tuple(slice(d, u) for d, u in zip(done, upto, strict=True))
            done = upto
