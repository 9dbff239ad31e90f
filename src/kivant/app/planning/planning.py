"""Planning: the plan of the open machine and its findings, made anew in the background after each change."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Mapping

import numpy as np
from msgspec import Struct

from kivant.app.event import Event
from kivant.app.planning.background import Background, Checkpoint, wait_for_calm
from kivant.app.planning.memory import available_bytes
from kivant.core.errors import KivantError
from kivant.core.findings.finding import Finding, by_severity
from kivant.core.machine import Machine, Routine
from kivant.core.motion.builder import plan
from kivant.core.motion.curves import NO_TRACES, Traces, traces
from kivant.core.motion.plan import Plan, PlannedBlock
from kivant.core.path import Path
from kivant.core.travel.play import Sense

FINDINGS, HOLDING = "findings", "holding"
"""Keys of what is worked out behind a plan, one after the other, as they look at the same."""
HAND_RESTS_S = 0.03
"""Between two edits of a hand that drags there is less time, s."""
MOMENT_S = 2e-3
"""A plan that takes less time of its thread, s, can be waited for, and painted together with what it is of."""

Post = Callable[[Callable[[], None]], None]
"""Has something done on the thread that owns the state."""


class Findings(Struct, frozen=True):
    """What was found about one machine."""

    machine: Machine
    found: tuple[Finding, ...]


class Planning:
    """The newest plan and findings; ``changed`` tells of a plan, ``findings_changed`` of findings.

    The plan comes first, as it is what a hand that drags looks at; ``settled`` tells that both are known.
    """

    def __init__(self, background: Background, post: Post, simulating: Background) -> None:
        self.changed, self.findings_changed, self.settled = Event(), Event(), Event()
        self.plan: Plan | None = None
        self.traces: Traces = NO_TRACES
        self.error: KivantError | None = None
        self.findings: tuple[Finding, ...] = ()
        self._checked: Machine | None = None
        self._looked_at: Machine | None = None
        self._background, self._post, self._simulating = background, post, simulating
        self._wished = self._planned = self._awaited = 0
        self._short, self._done = False, threading.Event()
        self._came: list[Callable[[], None]] = []

    @property
    def busy(self) -> bool:
        """Whether the plan or the findings of the machine as it is now are not known yet."""
        return self._planned < max(self._wished, 1) or self._checked is not self._looked_at

    @property
    def duration_s(self) -> float:
        """How long the plan lasts, 0 without one."""
        return self.plan.duration if self.plan else 0.0

    def block_at(self, time_s: float) -> PlannedBlock | None:
        """Return the block in force at a time, None before the first."""
        index = int(np.searchsorted(self.traces.blocks[:, 0], time_s, "right")) - 1
        return self.plan.blocks[index] if self.plan and index >= 0 else None

    def forget(self) -> None:
        """Forget plan and findings: they are another machine's."""
        self.plan, self.traces, self.error, self.findings = None, NO_TRACES, None, ()

    def checked(self, machine: Machine) -> bool:
        """Return whether the findings are those of this machine."""
        return self._checked is machine

    def wish(self, machine: Machine, routine: Routine, senses: Mapping[str, Sense] | None = None) -> None:
        """Ask for a plan, and behind it for the findings of a machine where they are not known.

        `senses` say where axes are in their play, if otherwise than they were calibrated.
        """
        self._wished += 1
        number, self._looked_at = self._wished, machine
        for behind in (FINDINGS, HOLDING):  # of another machine, they hold nothing up; these are wished anew
            self._background.drop(behind)

        def work(checkpoint: Checkpoint) -> tuple[Plan, Traces]:
            begin = time.thread_time()
            try:
                return _plan(machine, routine, senses, checkpoint)
            finally:
                self._short = time.thread_time() - begin < MOMENT_S

        def deliver(made: tuple[Plan, Traces]) -> None:
            self._come(lambda: self._take(number, *made))

        def failed(error: KivantError) -> None:
            self._come(lambda: self._take(number, None, NO_TRACES, error))

        self._done.clear()
        self._background.wish("plan", work, deliver, failed)

    def catch_up(self) -> None:
        """Take the plan as long as it takes no more than a moment: wait for it, but for each wish once only."""
        if self._short and self._awaited < self._wished:
            self._awaited = self._wished
            with self._background.await_soon(self._done, MOMENT_S):
                self._take_what_came()

    def _come(self, take: Callable[[], None]) -> None:
        self._came.append(take)
        self._post(self._take_what_came)
        self._done.set()

    def _take_what_came(self) -> None:
        while self._came:
            self._came.pop(0)()

    def _deliver_findings(self, result: Findings) -> None:
        self._post(lambda: self._take_findings(result))

    def _take_findings(self, result: Findings) -> None:
        if result.machine is not self._looked_at:
            return  # it was undone, or changed again
        self._checked = result.machine
        self._show_findings(result)
        self._settle()

        # What takes a simulation comes later, and holds no plan up.
        def deliver(found: Findings) -> None:
            self._post(lambda: self._show_findings(found))

        self._simulating.wish(
            FINDINGS,
            lambda checkpoint: _find_more(result, checkpoint),
            deliver,
            lambda error: deliver(_unfinished(result, error)),
        )

    def _show_findings(self, result: Findings) -> None:
        if self.checked(result.machine) and result.found != self.findings:  # of another machine it comes too late
            self.findings = result.found
            self.findings_changed()

    def _take(self, number: int, made: Plan | None, found: Traces, error: KivantError | None = None) -> None:
        if number == self._wished:
            self._planned = number
            self.plan, self.traces, self.error = made, found, error
            self.changed()
            self._settle()
            machine = self._looked_at
            if machine is not None and not self.checked(machine):
                self._background.wish(
                    FINDINGS,
                    lambda checkpoint: _find(machine, checkpoint),
                    self._deliver_findings,
                    lambda error: self._deliver_findings(_unfinished(Findings(machine, ()), error)),
                )

    def _settle(self) -> None:
        if not self.busy:
            self.settled()


def _find(machine: Machine, checkpoint: Checkpoint) -> Findings:
    wait_for_calm(checkpoint, HAND_RESTS_S)
    from kivant.core.findings.checks import machine_findings, routine_findings  # all of them: not for the start

    found = (*machine_findings(machine, checkpoint), *routine_findings(machine, checkpoint))
    return Findings(machine, by_severity(found))


def _find_more(found: Findings, checkpoint: Checkpoint) -> Findings:
    wait_for_calm(checkpoint)
    from kivant.core.findings.checks import simulated_findings

    return Findings(found.machine, by_severity((*found.found, *simulated_findings(found.machine, checkpoint))))


def _unfinished(found: Findings, error: KivantError) -> Findings:
    """Return what was found before the checks ended by an error, and that they did."""
    fault = error.faults[0]
    ended = Finding(
        "checks-unfinished",
        "warning",
        Path(),
        f"Not everything could be checked. {fault.message}",
        fault.remedy,
        mends=False,
    )
    return Findings(found.machine, by_severity((*found.found, ended)))


def _plan(
    machine: Machine, routine: Routine, senses: Mapping[str, Sense] | None, checkpoint: Checkpoint
) -> tuple[Plan, Traces]:
    most = available_bytes()
    made = plan(machine, routine, most_bytes=most, trusted=True, senses=senses, checkpoint=checkpoint)
    return made, traces(made)
