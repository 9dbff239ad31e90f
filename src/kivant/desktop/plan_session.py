"""Machine, plan and playhead of one window, for its widgets, with a signal for each change."""

from __future__ import annotations

from contextlib import AbstractContextManager
from dataclasses import replace
from decimal import Decimal
from pathlib import Path

import numpy as np
from PySide6.QtCore import QElapsedTimer, QObject, QTimer, Signal

from kivant.app.composing import OWN_MOVE, free_name, own_move, parse_targets, with_routine
from kivant.app.document import Document
from kivant.app.editing import Edit
from kivant.app.planner import Planner, Wish
from kivant.core.errors import Fault, KivantError
from kivant.core.findings import Finding, by_severity, machine_findings
from kivant.core.machine import Axis, Machine, Routine
from kivant.core.plan import AxisPlan, Plan, PlannedBlock
from kivant.core.travel import parse_position
from kivant.desktop.aside import aside
from kivant.desktop.curves import NO_TRACES, Traces, traces
from kivant.desktop.theme import Theme
from kivant.desktop.turns import Turns

RATES = (1.0, 0.1, 0.01, 0.001)
_FRAME_MS = 16
_WATCH_MS = 40


class PlanSession(QObject):
    """What is open, what is planned, and where the playhead stands; `Session` adds what runs on a board."""

    machine_changed = Signal()
    targets_changed = Signal()
    findings_changed = Signal()
    plan_changed = Signal()
    playhead_moved = Signal()
    playing_changed = Signal()
    selection_changed = Signal()
    run_changed = Signal()
    theme_changed = Signal()
    noticed = Signal(str)
    _delivered = Signal(object, object, object)
    _told = Signal(object, object)

    def __init__(self, document: Document, theme: Theme | None = None) -> None:
        super().__init__()
        self.document = document
        self.theme = theme or Theme()
        self.plan: Plan | None = None
        self.traces = NO_TRACES
        self.plan_error: KivantError | None = None
        self.planning = True
        self.findings: tuple[Finding, ...] = ()
        self._routine_findings: tuple[Finding, ...] = ()
        self.playhead_s = 0.0
        self.selected = 0
        self.rate = RATES[0]
        self.loop = False
        self.routine_name: str | None = None
        self.target_texts: dict[str, str] = {}
        self.target_errors: dict[str, str] = {}
        self.here: dict[str, Decimal] = {}
        self._play_timer = QTimer(self, interval=_FRAME_MS)
        self._play_timer.timeout.connect(self._play_on)
        self._since = QElapsedTimer()
        self._delivered.connect(self._take_plan)
        self._told.connect(self._take_findings)
        self._planner = Planner(self._deliver, self._told.emit)
        self.turns = Turns(self._planner.hurrying)
        self._wish_number = 0
        self._adopt()

    @property
    def running(self) -> bool:
        """Whether a board is being moved."""
        return False

    def _forget_run(self) -> None:
        """Forget what ran on a board with another machine."""

    def hurrying(self) -> AbstractContextManager[None]:
        """Return a context in which nothing goes on in the background that can wait."""
        return self._planner.hurrying()

    def close(self) -> None:
        """End all that goes on in the background."""
        self._play_timer.stop()
        self.turns.close()
        self._planner.close()

    # Machine

    @property
    def machine(self) -> Machine:
        """The machine as it is now."""
        return self.document.machine

    def open(self, document: Document) -> None:
        """Show another document; not while something runs."""
        self.document = document
        self.here = {}
        self.selected = 0
        self.target_texts, self.target_errors = {}, {}
        self._forget_run()
        self.plan, self.traces = None, NO_TRACES
        self._routine_findings = ()
        self._adopt()
        self.run_changed.emit()

    def edit(self, edit: Edit, name: str, *, goes_on: bool = False) -> None:
        """Change the machine; `goes_on` makes one edit of a drag. While something runs, nothing is changed.

        Raises
        ------
        KivantError
            What the edit breaks; the machine is then as it was.
        """
        if self.running:
            raise KivantError(Fault("", "Axes are moving.", "Stop them before changing the machine."))
        changed = edit(self.machine)
        if changed != self.machine:
            self.document.edit(changed, name, goes_on=goes_on)
            self._adopt()

    def undo(self) -> None:
        """Take the latest edit back; not while something runs."""
        if not self.running:
            self.document.undo()
            self._adopt()

    def redo(self) -> None:
        """Do again what was taken back; not while something runs."""
        if not self.running:
            self.document.redo()
            self._adopt()

    def keep_move(self) -> None:
        """Make a routine of the composed move."""
        targets = self._targets()
        if not targets or self.running:
            return
        name = free_name(self.machine, " and ".join(targets) if len(targets) < 4 else OWN_MOVE)[:80]
        # Kept as it will be done: from where the axes stand now.
        routine = own_move(targets, {k: v for k, v in self._standing().items() if v}, name)
        self.document.edit(with_routine(self.machine, routine), f"new routine “{name}”")
        self.routine_name = name
        self._adopt()
        self.noticed.emit(f"Kept as the routine “{name}”. Ctrl+Z takes it back; save to keep it in the file.")

    def _adopt(self) -> None:
        names = [routine.name for routine in self.machine.routines]
        if self.routine_name not in names and (self.routine_name is not None or names):
            self.routine_name = names[0] if names else None
        self.selected = min(self.selected, max(len(self.machine.axes) - 1, 0))
        self._gather_findings()
        self.machine_changed.emit()
        self._replan()

    def _gather_findings(self) -> None:
        # Those of the routines come with the plan: there may be a hundred thousand blocks to go through.
        self.findings = by_severity((*machine_findings(self.machine), *self._routine_findings))

    def _take_findings(self, wish: Wish, found: tuple[Finding, ...]) -> None:
        if wish.machine is self.machine and found != self._routine_findings:
            self._routine_findings = found
            self._gather_findings()
            self.findings_changed.emit()

    def _standing(self) -> dict[str, Decimal]:
        """Return where the axes of the machine stand, as far as it is known."""
        names = {axis.name for axis in self.machine.axes}
        return {name: place for name, place in self.here.items() if name in names}

    # Plan

    @property
    def routine(self) -> Routine:
        """What is to be planned: the chosen routine, or the move that is being composed."""
        if self.routine_name is not None:
            return self.machine.routine(self.routine_name)
        return own_move(self._targets(), self._standing())

    def choose_routine(self, name: str | None) -> None:
        """Plan a routine of the machine, or (None) the move that is being composed."""
        if name != self.routine_name:
            self.routine_name = name
            self.targets_changed.emit()
            self._replan()

    def set_target(self, axis_name: str, text: str) -> None:
        """Take a typed target; a text that cannot be understood is explained and changes nothing."""
        axis = self.machine.axis(axis_name)
        self.target_errors.pop(axis_name, None)
        if text.strip():
            try:
                parse_position(axis, text)
            except KivantError as error:
                fault = error.faults[0]
                self.target_errors[axis_name] = f"{fault.message} {fault.remedy}"
                self.targets_changed.emit()
                return
        self.target_texts[axis_name] = text
        self.targets_changed.emit()
        self._replan()

    def _targets(self) -> dict[str, Decimal]:
        return parse_targets(self.machine, self.target_texts)

    def _replan(self) -> None:
        self.planning = True
        self._wish_number = self._planner.wish(self.machine, self.routine)

    def _deliver(self, wish: Wish, result: Plan | KivantError) -> None:
        """Hand a result over from the planner's thread, with what pictures need of it."""
        self._delivered.emit(wish, result, traces(result) if isinstance(result, Plan) else NO_TRACES)

    def _take_plan(self, wish: Wish, result: Plan | KivantError, found: Traces) -> None:
        if wish.number != self._wish_number:
            return
        self.planning = False
        self.traces = found
        self.plan = result if isinstance(result, Plan) else None
        self.plan_error = None if isinstance(result, Plan) else result
        self.playhead_s = min(self.playhead_s, self.duration_s)
        self.plan_changed.emit()
        self.playhead_moved.emit()

    @property
    def duration_s(self) -> float:
        """How long the plan lasts, 0 without one."""
        return self.plan.duration if self.plan else 0.0

    @property
    def axis(self) -> Axis | None:
        """The selected axis, None where the machine has none."""
        axes = self.machine.axes
        return axes[self.selected] if self.selected < len(axes) else None

    @property
    def axis_plan(self) -> AxisPlan | None:
        """The plan of the selected axis; None without one, or where the axis is newer than the plan."""
        return self.plan.axes[self.selected] if self.plan and self.selected < len(self.plan.axes) else None

    @property
    def steps_here(self) -> int:
        """At which step the selected axis stands at the playhead."""
        planned = self.axis_plan
        return planned.train.position_after(planned.train.taken(self.playhead_s)) if planned else 0

    @property
    def steps_moved(self) -> int:
        """How many steps the selected axis stands from its start at the playhead, with sign."""
        planned = self.axis_plan
        return self.steps_here - planned.start_steps if planned else 0

    @property
    def speed_here(self) -> float:
        """How fast the selected axis goes at the playhead, axis units/s."""
        planned = self.axis_plan
        return abs(planned.train.speed_at(self.playhead_s)) / float(planned.steps_per_unit) if planned else 0.0

    def block_at(self, time_s: float) -> PlannedBlock | None:
        """Return the block in force at a time, None before the first."""
        index = int(np.searchsorted(self.traces.blocks[:, 0], time_s, "right")) - 1
        return self.plan.blocks[index] if self.plan and index >= 0 else None

    # Playhead

    def select(self, index: int) -> None:
        """Select an axis by its place."""
        if index != self.selected and 0 <= index < len(self.machine.axes):
            self.selected = index
            self.selection_changed.emit()

    def set_playhead(self, time_s: float) -> None:
        """Look at another instant of the plan."""
        time_s = min(max(time_s, 0.0), self.duration_s)
        if time_s != self.playhead_s:
            self.playhead_s = time_s
            self.playhead_moved.emit()

    def set_rate(self, rate: float) -> None:
        """Play at another speed, as a share of real time."""
        self.rate = rate
        self.playing_changed.emit()

    @property
    def playing(self) -> bool:
        """Whether the playhead moves by itself."""
        return self._play_timer.isActive()

    def toggle_play(self) -> None:
        """Play, or pause; at the end, play from the beginning."""
        if self.playing:
            self._play_timer.stop()
        elif self.plan and not self.running:
            if self.playhead_s >= self.duration_s:
                self.set_playhead(0.0)
            self._since.start()
            self._play_timer.start()
        self.playing_changed.emit()

    def _play_on(self) -> None:
        self.set_playhead(self.playhead_s + self._since.restart() * 1e-3 * self.rate)
        if self.playhead_s >= self.duration_s:
            if self.loop and self.duration_s > 0:
                self.set_playhead(0.0)
            else:
                self.toggle_play()

    def set_loop(self, loop: bool) -> None:
        """Begin again at the end when playing, or stop there."""
        self.loop = loop
        self.playing_changed.emit()

    def step(self, direction: int) -> None:
        """Move the playhead to the next (+1) or previous (-1) step of the selected axis."""
        planned = self.axis_plan
        if planned is None or self.running:
            return
        train = planned.train
        taken = train.taken(self.playhead_s)
        if direction > 0 and taken < train.count:
            self.set_playhead(train.instant(taken))
        elif direction < 0 and taken > 0:
            at = train.instant(taken - 1)
            if at >= self.playhead_s:
                at = train.instant(taken - 2) if taken > 1 else 0.0
            self.set_playhead(at)

    # Looks

    def set_night(self, night: bool) -> None:
        """Change between day and night."""
        self.theme = replace(self.theme, night=night)
        self.theme_changed.emit()

    def save(self, path: Path | None = None) -> None:
        """Save the document, while the window goes on; raises `SaveError`."""
        aside(lambda: self.document.save(path), keys=True)
        self.machine_changed.emit()
