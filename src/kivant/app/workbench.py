"""The workbench: one open machine and all that goes on with it, in a few objects that tell each other."""

from __future__ import annotations

from pathlib import Path

from kivant.app.abilities import Abilities
from kivant.app.choice import Choice
from kivant.app.document.document import Document
from kivant.app.event import Event
from kivant.app.exporting import Exporting
from kivant.app.instant import Instant
from kivant.app.measurings import Measurings
from kivant.app.planning.background import Background, Calm
from kivant.app.planning.following import Following
from kivant.app.planning.holding import Holding
from kivant.app.planning.own_move import NAME, own_move, with_routine
from kivant.app.planning.planning import Planning, Post
from kivant.app.planning.trials import Trials
from kivant.app.planning.tries import Tries
from kivant.app.playhead import Playhead
from kivant.app.recorder import Recorder
from kivant.app.running.running import Running
from kivant.app.running.start import Start
from kivant.core.errors import Fault, KivantError
from kivant.core.machine import Machine, Routine
from kivant.core.machine.axes import free_name
from kivant.core.machine.edits import Edit


class Workbench:
    """What is open, chosen, planned, looked at and running.

    Parameters
    ----------
    document : Document
    post : callable, optional
        Has something done on the thread that owns the workbench; results of the background come that way. Without
        it they are taken on the background's thread.
    folder : Path, optional
        Where readings of axes are kept; without it they are gone when the workbench is closed.

    Every part has events of its own; ``machine_changed`` tells of another machine or another state of it,
    ``noticed`` (with a text) what a person should read.
    """

    def __init__(self, document: Document, post: Post = lambda act: act(), folder: Path | None = None) -> None:
        self.machine_changed, self.noticed = Event(), Event()
        self.calm = Calm()
        self.background = Background(self.calm)
        self.choice = Choice(document)
        self.measurings = Measurings(self.choice, folder)
        self.abilities = Abilities(self.choice)
        self.simulating = Background(self.calm)
        self.planning = Planning(self.background, post, self.simulating)
        self.following = Following(self.planning, self.simulating, post)
        self.holding = Holding(self.planning, self.background, post)
        self.trials = Trials(self.background, post)
        self.tries = Tries(post, self.calm)
        self.exporting = Exporting(post, self.calm)
        self.playhead = Playhead(self.planning)
        self.running = Running(self.choice, self.planning)
        self.start = Start(self.choice, self.planning, self.running)
        self.instant = Instant(self.choice, self.planning, self.playhead, self.running)
        self.recorder = Recorder(self.choice, self.running, self.instant)
        self.choice.routine_changed.connect(self.replan)
        self.planning.changed.connect(self.playhead.keep_up)
        self.running.noticed.connect(self.noticed)
        self.exporting.noticed.connect(self.noticed)
        self.running.arrived.connect(self._replan_own_move)
        self.running.turned.connect(self._begin_at_the_start)
        self.running.changed.connect(self._follow_run)
        self.choice.keep_up()
        self.replan()

    def close(self) -> None:
        """End all that goes on in the background; a motion is braked first."""
        self.playhead.pause()
        self.running.close()
        self.background.close()
        self.simulating.close()
        self.tries.close()
        self.exporting.close()
        self.measurings.close()

    # Machine

    @property
    def document(self) -> Document:
        """The open document."""
        return self.choice.document

    @property
    def machine(self) -> Machine:
        """The machine as it is now."""
        return self.document.machine

    def open(self, document: Document) -> None:
        """Show another document; not while something runs."""
        self.running.forget()
        self.recorder.forget()
        self.planning.forget()
        self.trials.forget()
        self.tries.forget()
        self.choice.adopt(document)
        self._adopt()
        self.running.changed()

    def edit(self, edit: Edit, name: str, *, merge: bool = False) -> None:
        """Change the machine; `merge` makes one edit of a drag. While something runs, nothing is changed.

        Raises
        ------
        KivantError
            What the edit breaks; the machine is then as it was.
        """
        if self.running.active:
            raise KivantError(Fault("", "Axes are moving.", "Stop them before changing the machine."))
        with self.calm.hurrying():
            changed = edit(self.machine)
            if changed == self.machine:
                return
            self.document.edit(changed, name, merge=merge)
            self._keep_up()
        self.replan()

    def undo(self) -> None:
        """Take the latest edit back; not while something runs."""
        if not self.running.active:
            self.document.undo()
            self._adopt()

    def redo(self) -> None:
        """Do again what was taken back; not while something runs."""
        if not self.running.active:
            self.document.redo()
            self._adopt()

    def save(self, path: Path | None = None) -> None:
        """Save the document.

        Raises
        ------
        SaveError
            As `Document.save` does.
        """
        self.document.save(path)
        self.machine_changed()

    def _keep_up(self) -> None:
        self.choice.keep_up()
        self.running.standing.keep_up(self.machine)
        self.machine_changed()

    def _adopt(self) -> None:
        with self.calm.hurrying():
            self._keep_up()
        self.replan()

    # Routine

    @property
    def routine(self) -> Routine:
        """What is to be planned: the chosen routine, or the move of one's own."""
        if self.choice.routine_name is not None:
            return self.machine.routine(self.choice.routine_name)
        return own_move(self.choice.own_move.targets(self.machine), self.running.standing.of(self.machine))

    def replan(self) -> None:
        """Ask for a new plan of what is chosen."""
        senses = dict(self.running.standing.senses) if self.choice.routine_name is None else None
        self.planning.wish(self.machine, self.routine, senses)

    def set_target(self, axis_name: str, text: str) -> None:
        """Take a typed target; a text that cannot be understood is explained and changes nothing."""
        if self.choice.own_move.take(self.machine, axis_name, text):
            self.replan()

    def keep_move(self) -> None:
        """Make a routine of the move of one's own."""
        targets = self.choice.own_move.targets(self.machine)
        if not targets or self.running.active:
            return
        taken = (routine.name for routine in self.machine.routines)
        name = free_name(taken, " and ".join(targets) if len(targets) < 4 else NAME)[:80]
        # Kept as it will be done: from where the axes stand now.
        standing = {k: v for k, v in self.running.standing.of(self.machine).items() if v}
        self.document.edit(with_routine(self.machine, own_move(targets, standing, name)), f"new routine “{name}”")
        self.choice.routine_name = name
        self._adopt()
        self.noticed(f"Added as the routine “{name}”. Ctrl+Z undoes this; save to keep it in the file.")

    def _replan_own_move(self) -> None:
        if self.choice.routine_name is None:
            self.replan()  # it begins where the axes stand now

    # Playing and running

    def toggle_play(self) -> None:
        """Play, or pause; not while something runs."""
        if self.playhead.playing:
            self.playhead.pause()
        elif not self.running.active:
            self.playhead.play()

    def step(self, direction: int) -> None:
        """Move the playhead to the next (+1) or previous (-1) step of the chosen axis; not while something runs."""
        if not self.running.active:
            self.playhead.step(self.instant.axis_plan, direction)

    def stop(self) -> None:
        """Stop whatever moves: playing is paused; a motion brakes, at the second call its power is taken."""
        self.playhead.pause()
        self.running.stop()

    def _begin_at_the_start(self) -> None:
        if self.running.active:
            self.playhead.pause()
            if not self.running.by_hand:
                self.playhead.go(0.0)

    def _follow_run(self) -> None:
        status = self.running.status
        if status is None or self.running.plan is None or self.running.plan is not self.planning.plan:
            if self.running.streamer is not None:
                self.playhead.moved()  # all that shows the instant shows what is counted by hand, until it ends
            return
        if status.phase in ("moving", "braking") or status.over:
            self.playhead.go(status.elapsed_s)
