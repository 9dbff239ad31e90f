"""One window's state for its widgets: the workbench with a Qt signal for each of its events, and the looks."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import AbstractContextManager
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import QElapsedTimer, QObject, QTimer, Signal

from kivant.app.document.document import Document
from kivant.app.workbench import Workbench
from kivant.core.errors import KivantError
from kivant.core.machine.edits import Edit
from kivant.desktop.kit.aside import aside
from kivant.desktop.kit.theme import Theme
from kivant.desktop.kit.turns import Turns

_FRAME_MS = 16
_WATCH_MS = 40


class Session(QObject):
    """Widgets connect to the signals, read the parts of the workbench, and ask it for changes."""

    machine_changed = Signal()
    targets_changed = Signal()
    findings_changed = Signal()
    settled = Signal()
    plan_changed = Signal()
    trial_changed = Signal()
    following_changed = Signal()
    holding_changed = Signal()
    playhead_moved = Signal()
    playing_changed = Signal()
    selection_changed = Signal()
    run_changed = Signal()
    run_turned = Signal()
    export_changed = Signal()
    theme_changed = Signal()
    noticed = Signal(str)
    station_wanted = Signal(str)
    _posted = Signal(object)

    def __init__(self, document: Document, theme: Theme | None = None, folder: Path | None = None) -> None:
        super().__init__()
        self.theme = theme or Theme()
        self._posted.connect(self._do)
        bench = self.bench = Workbench(document, self._posted.emit, folder)
        self.choice, self.planning, self.trials = bench.choice, bench.planning, bench.trials
        self.own_move, self.instant, self.following = bench.choice.own_move, bench.instant, bench.following
        self.holding = bench.holding
        self.playhead, self.running = bench.playhead, bench.running
        self.turns = Turns(bench.calm.hurrying)
        self._play_timer = QTimer(self, interval=_FRAME_MS)
        self._play_timer.timeout.connect(self._play_on)
        self._since = QElapsedTimer()
        self._watch_timer = QTimer(self, interval=_WATCH_MS)
        self._watch_timer.timeout.connect(self.running.look)
        for event, signal in (
            (bench.machine_changed, self.machine_changed),
            (bench.noticed, self.noticed),
            (self.choice.axis_changed, self.selection_changed),
            (self.choice.routine_changed, self.targets_changed),
            (self.own_move.changed, self.targets_changed),
            (self.planning.changed, self.plan_changed),
            (self.planning.findings_changed, self.findings_changed),
            (self.planning.settled, self.settled),
            (self.trials.changed, self.trial_changed),
            (bench.following.changed, self.following_changed),
            (bench.holding.changed, self.holding_changed),
            (self.playhead.moved, self.playhead_moved),
            (self.playhead.changed, self.playing_changed),
            (bench.exporting.changed, self.export_changed),
            (self.running.turned, self.run_turned),
            (self.running.changed, self.run_changed),
        ):
            event.connect(signal.emit)
        self.playing_changed.connect(self._time_playing)
        self.run_turned.connect(self._time_run)

    def _do(self, act: Callable[[], None]) -> None:
        """Take a result of the background, on the interface thread."""
        with self.hurrying():
            act()

    def _time_playing(self) -> None:
        if self.playhead.playing and not self._play_timer.isActive():
            self._since.start()
            self._play_timer.start()
        elif not self.playhead.playing:
            self._play_timer.stop()

    def _play_on(self) -> None:
        self.playhead.advance(self._since.restart() * 1e-3)

    def _time_run(self) -> None:
        if self.running.active:
            self._watch_timer.start()
        else:
            self._watch_timer.stop()

    def hurrying(self) -> AbstractContextManager[None]:
        """Return a context in which nothing goes on in the background that can wait."""
        return self.bench.calm.hurrying()

    def close(self) -> None:
        """End all that goes on in the background."""
        self._play_timer.stop()
        self._watch_timer.stop()
        self.turns.close()
        self.bench.close()

    # Asked for by widgets

    def edit(self, edit: Edit, name: str, *, merge: bool = False) -> None:
        """Change the machine.

        Raises
        ------
        KivantError
            As `Workbench.edit` does.
        """
        self.bench.edit(edit, name, merge=merge)

    def try_edit(self, edit: Edit, name: str, *, merge: bool = False) -> bool:
        """Change the machine; tell why, if it cannot be done. Return whether it was."""
        try:
            self.edit(edit, name, merge=merge)
        except KivantError as error:
            self.notice(str(error))
            return False
        return True

    def notice(self, text: str) -> None:
        """Tell a person something."""
        self.noticed.emit(text)

    def set_night(self, night: bool) -> None:
        """Change between day and night."""
        self.theme = replace(self.theme, night=night)
        self.theme_changed.emit()

    def save(self, path: Path | None = None) -> None:
        """Save the document, while the window goes on.

        Raises
        ------
        SaveError
            If it cannot be written.
        """
        aside(lambda: self.bench.document.save(path), keys=True)
        self.machine_changed.emit()

    # Read by widgets

    @property
    def document(self) -> Document:
        """The open document."""
        return self.bench.document
