"""One window's state, for its widgets: all of `PlanSession`, and what runs on a board."""

from __future__ import annotations

import threading
from decimal import Decimal
from fractions import Fraction

from PySide6.QtCore import QTimer

from kivant.app.composing import as_decimal, own_move
from kivant.app.document import Document
from kivant.app.jog import Jog
from kivant.app.run import Run, Status
from kivant.core.errors import KivantError
from kivant.core.findings import machine_findings
from kivant.core.plan import plan
from kivant.core.travel import nearest_step, steps_per_unit
from kivant.desktop.plan_session import RATES, PlanSession
from kivant.desktop.theme import Theme

__all__ = ["RATES", "Session"]

_WATCH_MS = 40


class Session(PlanSession):
    """What is open, what is planned, where the playhead stands, and what runs."""

    def __init__(self, document: Document, theme: Theme | None = None) -> None:
        self.address, self.address_error = "", ""
        self.run: Run | None = None
        # Where the latest run was when it was looked at: all that is shown belongs to the same moment.
        self.status: Status | None = None
        self._thread: threading.Thread | None = None
        self._under_way = False
        super().__init__(document, theme)
        self._watch_timer = QTimer(self, interval=_WATCH_MS)
        self._watch_timer.timeout.connect(self._watch)

    def _forget_run(self) -> None:
        self.run = self.status = None

    def close(self) -> None:
        """End all that goes on in the background; a motion is braked first."""
        if self.running:
            self.stop()
        if self._thread is not None:
            self._thread.join(timeout=5.0)
        self._watch_timer.stop()
        super().close()

    # Run

    @property
    def running(self) -> bool:
        """Whether a board is being moved: from the start of a run until its end has been looked at."""
        return self._under_way

    @property
    def progress(self) -> float:
        """Which share of the plan has been run, 0 where nothing runs."""
        if self.status is None or self.run is None or not self.running or self.run.plan.duration <= 0:
            return 0.0
        return min(self.status.elapsed_s / self.run.plan.duration, 1.0)

    @property
    def obstacle(self) -> str:
        """Why the plan cannot be run as it is, empty if it can."""
        if self.plan is None or self.planning:
            return "No plan yet."
        if self.routine_name is None and self.target_errors:
            return next(iter(self.target_errors.values()))
        errors = [f for f in self.plan.findings if f.severity == "error"]
        if errors:
            return f"{errors[0].message} {errors[0].remedy}"
        return "" if any(axis.steps for axis in self.plan.axes) else "Nothing moves in this plan."

    def start_run(self) -> None:
        """Run the plan on the board."""
        if self.running or self.obstacle or self.plan is None:
            return
        self._launch(Run(self.plan, self.address.strip() or None))
        self.set_playhead(0.0)

    def start_jog(self) -> bool:
        """Begin to move the selected axis by hand; return whether it could be begun."""
        if self.running or self.axis is None or self.address_error:
            return False
        errors = [finding for finding in machine_findings(self.machine) if finding.severity == "error"]
        if errors:
            self.noticed.emit(f"{errors[0].message} {errors[0].remedy}")
            return False
        try:
            jog = Jog(self.machine, self.selected, self._standing(), self.address.strip() or None)
        except KivantError as error:
            self.noticed.emit(str(error))
            return False
        self._launch(jog)
        return True

    def pull(self, share: float) -> None:
        """Pull the axis that is moved by hand: a share of its greatest speed, with sign."""
        if isinstance(self.run, Jog):
            self.run.pull(share)

    def release(self) -> None:
        """Let the axis go: it brakes."""
        if isinstance(self.run, Jog):
            self.run.release()

    def nudge(self, direction: int) -> None:
        """Move the selected axis by one step on the board."""
        axis = self.axis
        if self.running or axis is None or self.address_error:
            return
        ratio = steps_per_unit(axis)
        here = self._standing()
        target = as_decimal(Fraction(nearest_step(Fraction(here.get(axis.name, 0)) * ratio) + direction) / ratio)
        try:
            self._launch(Run(plan(self.machine, own_move({axis.name: target}, here)), self.address.strip() or None))
        except KivantError as error:
            self.noticed.emit(str(error))

    @property
    def counted_by_hand(self) -> tuple[int, ...]:
        """What the board has counted for each axis while one is moved by hand; empty at all other times."""
        by_hand = self.running and self.run is not None and self.run.plan is not self.plan
        return self.status.counts if by_hand and self.status else ()

    @property
    def steps_here(self) -> int:
        """At which step the selected axis stands: as counted while it is moved by hand, else at the playhead."""
        counted = self.counted_by_hand
        return counted[self.selected] if self.selected < len(counted) else super().steps_here

    @property
    def steps_moved(self) -> int:
        """How many steps the selected axis stands from where its motion began, with sign."""
        if self.run is not None and self.selected < len(self.counted_by_hand):
            return self.steps_here - self.run.plan.axes[self.selected].start_steps
        return super().steps_moved

    def position_of(self, index: int) -> float:
        """Return where an axis is to be shown, in axis units: as counted while it is moved by hand, else as planned."""
        counted = self.counted_by_hand
        if index < len(counted):
            return counted[index] / float(steps_per_unit(self.machine.axes[index]))
        if self.plan is None or index >= len(self.plan.axes):
            return 0.0
        axis = self.plan.axes[index]
        return axis.train.ideal_at(self.playhead_s) / float(axis.steps_per_unit)

    def _launch(self, work: Run) -> None:
        if self.playing:
            self.toggle_play()
        self.run = work
        self.status = self.run.status
        self._thread = threading.Thread(target=self.run.execute, name="run", daemon=True)
        self._under_way = True
        self._thread.start()
        self._watch_timer.start()
        self.run_changed.emit()

    def stop(self) -> None:
        """Stop: playing is paused; a motion brakes on the ramp, at the second call its power is taken."""
        if self.playing:
            self.toggle_play()
        if self.run and self.running:
            self.run.stop()
            self.run_changed.emit()

    def _watch(self) -> None:
        if self.run is None or self._thread is None:
            return
        ended = not self._thread.is_alive()  # asked before the status, which is then the last one
        status = self.status = self.run.status
        self._under_way = not ended
        if self.run.plan is self.plan and (status.phase in ("moving", "braking") or status.over):
            self.set_playhead(status.elapsed_s)
        if ended:
            self._watch_timer.stop()
            self._arrive(status)
        if self.run.plan is not self.plan:
            self.playhead_moved.emit()  # all that shows the instant shows what is counted by hand, until it ends
        self.run_changed.emit()

    def _arrive(self, status: Status) -> None:
        """Remember where the axes stand: composed moves begin there."""
        if self.run is None:
            return
        plan = self.run.plan
        known = status.phase == "done" and not self.run.by_hand
        for axis, counted in zip(plan.axes, status.counts, strict=False):
            exact = axis.train.end if known else Fraction(counted)
            self.here[axis.name] = as_decimal(exact / axis.steps_per_unit)
        if self.routine_name is None:
            self._replan()  # a composed move begins where the axes stand now

    def elsewhere(self) -> str:
        """Return a sentence if the plan begins where the axes do not stand, else an empty text."""
        if self.plan is None or not self.here or self.running:
            return ""
        starts = self.plan.routine.start or {}
        for axis in self.machine.axes:
            here, begin = self.here.get(axis.name, Decimal(0)), starts.get(axis.name, Decimal(0))
            if abs(here - begin) > Decimal("1e-9"):
                return (
                    f"{axis.name} stands at {float(here):.6g} {axis.unit}; "
                    f"this routine takes that place for {float(begin):.6g} {axis.unit}."
                )
        return ""
