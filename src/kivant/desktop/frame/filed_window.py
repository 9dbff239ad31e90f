"""A window's document: opening, saving, keeping what is unsaved, dropping files, and closing."""

from __future__ import annotations

import contextlib
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QTimer
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import QMainWindow

from kivant.app.document.autosave import Autosave, leftovers
from kivant.app.document.document import Document
from kivant.app.document.examples import load_example
from kivant.app.document.memory import Memory, state_folder
from kivant.core.errors import KivantError
from kivant.core.machine import Machine
from kivant.desktop.frame.notice import Notice
from kivant.desktop.frame.placement import Placement
from kivant.desktop.kit import theme as themes
from kivant.desktop.kit.aside import aside
from kivant.desktop.state.session import Session
from kivant.desktop.widgets.text_area import TextArea
from kivant.desktop.widgets.value_field import ValueField
from kivant.files.project import SUFFIX

if TYPE_CHECKING:
    from concurrent.futures import Future

    from kivant.desktop.frame.export_slip import ExportSlip

AUTOSAVE_MS = 200
"""How long an edit waits to be kept: with the writing of it, well below a second."""
_LAST_S = 3.0
"""For the last keeping when somebody wants Kivant to end."""


class FiledWindow(QMainWindow):
    """One open machine and its file; what is shown of it is the business of `Window`."""

    notice: Notice

    def __init__(self, document: Document, *, night: bool = False, folder: Path | None = None) -> None:
        super().__init__()
        self.folder = folder or state_folder()
        self.memory, self.autosave = Memory(self.folder), Autosave(self.folder)
        self.others: list[FiledWindow] = []
        self.session = Session(document, themes.Theme(night), self.folder)
        self.placement = Placement(self)
        self._filing = False  # a file is being read or written
        self._light_chosen: bool | None = None
        self._trouble = ""
        self.setAcceptDrops(True)
        self._autosave_timer = QTimer(self, singleShot=True, interval=AUTOSAVE_MS)
        self._autosave_timer.timeout.connect(self.keep_unsaved)
        self.session.machine_changed.connect(self._keep_soon)

    def _keep_soon(self) -> None:
        # Never put off by the next edit: somebody who goes on editing would never have anything kept.
        if not self._autosave_timer.isActive():
            self._autosave_timer.start()
            if self.session.document.modified:
                self.autosave.prepare(self.session.document.path)

    def open_path(self, path: Path) -> bool:
        """Open a machine; return whether it could be. The machine that is open stays if not."""
        if self._filing:
            return False
        self._filing = True
        try:
            document = aside(lambda: Document.open(path), keys=False)
        except KivantError as error:
            self.notice.tell(f"{path.name} cannot be opened.\n{error}")
            return False
        finally:
            self._filing = False
        self.notice.hide()
        self.autosave.drop()
        self.session.bench.open(document)
        self.memory.remember(path)
        return True

    def open_other(self, path: Path) -> bool:
        """Open another machine once this one may be left; return whether it is open."""
        return not self.session.running.active and self.may_leave() and self.open_path(path)

    def open_example(self, file: str) -> bool:
        """Open an example once this machine may be left; return whether it is open."""
        if self.session.running.active or not self.may_leave():
            return False
        self.notice.hide()
        self.autosave.drop()
        self.session.bench.open(Document(load_example(file)))
        return True

    def ask_open(self) -> None:
        """Let the user choose a machine to open."""
        if self.session.running.active or not self.may_leave():
            return
        from kivant.desktop.frame.questions import file_to_open

        path = file_to_open(self, self.session.document.path)
        if path is not None:
            self.open_path(path)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        paths = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
        if paths:
            self.open_other(paths[0])

    def recover(self) -> int:
        """Open what an earlier Kivant left unsaved, each in a window; return how many there were."""
        found = leftovers(self.folder)
        for leftover in found:
            window = type(self)(leftover.document(), night=self.session.theme.night, folder=self.folder)
            if window.autosave.keep(leftover.machine, leftover.path).result():
                leftover.forget()
            self.others.append(window)
            window.placement.show()
            place = leftover.path.name if leftover.path else "a machine that was never saved"
            window.notice.tell(
                f"Kivant ended unexpectedly. These are the unsaved changes of {place}. Save what you want to keep."
            )
        return len(found)

    def new_window(self) -> None:
        """Open a second window, with a machine of its own."""
        window = type(self)(Document(Machine(name="New machine")), night=self.session.theme.night, folder=self.folder)
        self.others.append(window)
        window.placement.show()

    def keep_unsaved(self) -> None:
        """Keep unsaved changes where they are found again after a crash."""
        document = self.session.document
        if document.modified:
            self.autosave.keep(document.machine, document.path).add_done_callback(self._tell_trouble)
        else:
            self.autosave.drop()

    def _tell_trouble(self, _kept: Future[bool]) -> None:
        """Say once that unsaved changes cannot be kept; called on the thread that keeps them."""
        trouble, told = self.autosave.trouble, self._trouble
        self._trouble = trouble
        if trouble and not told:
            self.session.notice(
                f"Unsaved changes cannot be kept in case Kivant ends unexpectedly: {trouble}. "
                "Save the machine, and free some disk space."
            )

    def give_way(self) -> None:
        """End without asking, as when the desktop's session ends; what is unsaved is found at the next start."""
        for other in self.others:
            other.give_way()
        if not self.isVisible():
            return
        self._autosave_timer.stop()
        document = self.session.document
        if document.modified:
            with contextlib.suppress(TimeoutError):  # whoever wants Kivant to end waits no longer for a slow disk
                self.autosave.keep(document.machine, document.path).result(_LAST_S)
        self.autosave.abandon()
        self.session.close()

    def save(self) -> bool:
        """Save; ask for a place where there is none yet. Return whether it is saved."""
        return self.save_to(self.session.document.path) if self.session.document.path else self.save_as()

    def save_as(self) -> bool:
        """Save under another name. Return whether it is saved."""
        from kivant.desktop.frame.questions import file_to_save

        suggestion = str(self.session.document.path or f"{self.session.document.machine.name or 'machine'}{SUFFIX}")
        path = file_to_save(self, suggestion)
        return path is not None and self.save_to(path)

    def save_to(self, path: Path) -> bool:
        """Save to a file. Return whether it is saved."""
        document, held = self.session.document, self.focusWidget()
        if self._filing or (isinstance(held, ValueField | TextArea) and held.isModified() and not held.commit()):
            return False  # what is being typed belongs to what is saved; if it is wrong, its field says why
        if path == document.path and document.changed_on_disk:
            from kivant.desktop.frame.questions import may_replace

            if not may_replace(self, path):
                return False
        self._filing = True
        try:
            self.session.save(path)
        except KivantError as error:
            self.notice.tell(str(error))
            return False
        finally:
            self._filing = False
        self.memory.remember(path)
        self.keep_unsaved()
        return True

    @cached_property
    def export_slip(self) -> ExportSlip:
        """How far a file is written; made with the first one."""
        from kivant.desktop.frame.export_slip import ExportSlip

        return ExportSlip(self.centralWidget(), self.session)

    def export(self) -> None:
        """Write every step of the plan to a file, in the background."""
        made, exporting = self.session.planning.plan, self.session.bench.exporting
        obstacle = self.session.running.obstacle
        if made is None or obstacle or exporting.path is not None:
            self.session.notice(obstacle or "Another file is being written. Wait for it, or cancel it.")
            return
        from kivant.desktop.frame.questions import file_to_export, may_overwrite

        beside = self.session.document.path
        suggestion = f"{made.routine.name.replace('/', '-')}.csv"
        tool = self.session.document.machine.geometry is not None
        chosen = file_to_export(self, str(beside.with_name(suggestion)) if beside else suggestion, tool=tool)
        if chosen is None:
            return
        path, asked, geometry = chosen
        if asked or not path.exists() or may_overwrite(self, path):
            exporting.begin(made, path, geometry=geometry)
            self.export_slip.watch()

    def may_leave(self) -> bool:
        """Ask about unsaved changes; return whether the machine may be left."""
        held = self.focusWidget()
        if isinstance(held, TextArea):
            held.commit()
        if not self.session.document.modified:
            return True
        from kivant.desktop.frame.questions import what_of_changes

        answer = what_of_changes(self, self.session.document.machine.name or "The machine")
        return self.save() if answer == "save" else answer == "discard"

    def closeEvent(self, event: QCloseEvent) -> None:
        held = self.focusWidget()
        if held is not None:
            held.clearFocus()  # what is being typed is taken first, or given back
        writing = self.session.bench.exporting.path
        if writing is not None:
            self.session.notice(f"{writing.name} is being written. Wait for it, or cancel it.")
        if self._filing or writing is not None or not self.may_leave():
            event.ignore()
            return
        self._autosave_timer.stop()
        self.autosave.close()
        whole, inner = self.isMaximized(), self.normalGeometry() if self.isMaximized() else self.geometry()
        self.memory.keep_window(
            (inner.width(), inner.height()), (inner.x(), inner.y()), maximized=whole, night=self._light_chosen
        )
        self.session.close()
        event.accept()
