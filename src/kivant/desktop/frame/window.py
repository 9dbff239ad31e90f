"""The window: head, rail, stage and playhead bar, with the menu and the keys."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import (
    QAction,
    QGuiApplication,
    QKeyEvent,
    QKeySequence,
    QResizeEvent,
    QShortcut,
)
from PySide6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QLineEdit,
    QMenu,
    QVBoxLayout,
    QWidget,
)

from kivant.app.document.document import Document
from kivant.app.document.examples import EXAMPLES
from kivant.core.path import Path as KeyPath
from kivant.desktop.frame import navigation
from kivant.desktop.frame.button_keys import ButtonKeys
from kivant.desktop.frame.filed_window import FiledWindow
from kivant.desktop.frame.head import Head
from kivant.desktop.frame.notice import Notice
from kivant.desktop.frame.pages import Pages
from kivant.desktop.frame.playhead_bar import PlayheadBar
from kivant.desktop.frame.rail import Rail
from kivant.desktop.frame.sheets import Sheets
from kivant.desktop.frame.stage import Stage
from kivant.desktop.kit import theme as themes
from kivant.desktop.kit.literal import literal, unaccelerated
from kivant.desktop.stations import FIRST_SHOWN, STATIONS
from kivant.desktop.widgets.station_page import StationPage


class Window(FiledWindow):
    """One open machine."""

    def __init__(self, document: Document, *, night: bool = False, folder: Path | None = None) -> None:
        super().__init__(document, night=night, folder=folder)
        self.head = Head(self.session)
        self.rail = Rail(self.session)
        self.bar = PlayheadBar(self.session)
        whole = self._lay_out()
        self.notice = Notice(whole, self.session)
        self.resize(*(self.memory.size or (1280, 800)))
        self.sheets = Sheets(whole, self.session, self.show_place)
        self.button_keys = ButtonKeys(self)
        self._add_keys()
        self._fill_menu()
        for key, plate in self.head.chain.plates.items():
            plate.clicked.connect(lambda _checked=False, k=key: self.show_station(k))
        self.head.findings.clicked.connect(lambda: self.sheets.findings.toggle())
        self.session.machine_changed.connect(self._retitle)
        self.session.theme_changed.connect(self._light)
        self.session.noticed.connect(self.notice.tell)
        self.session.station_wanted.connect(self.show_station)
        self.run_page.board.log_wanted.connect(lambda: self.sheets.log.toggle())
        QGuiApplication.styleHints().colorSchemeChanged.connect(self._follow_desktop)
        self._retitle()
        self.run_page.lanes.setFocus()

    @property
    def run_page(self) -> Any:
        """The page of the Run station, from which the window runs."""
        return self.pages["run"]

    @property
    def page(self) -> Any:
        """The page of the open station."""
        return self.pages.currentWidget()

    def show_where_it_was(self) -> None:
        """Show the window where it was left, if there is still a screen there."""
        self.placement.show(self.memory.place, maximized=self.memory.maximized)

    def _lay_out(self) -> QWidget:
        middle = QHBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(self.rail)
        self.pages = Pages(self.session)
        self.pages.show_page(FIRST_SHOWN)
        self.stage = Stage(self.session, self.pages, self.open_example)
        self.stage.open_wanted.connect(self.ask_open)
        self.stage.axis_wanted.connect(self.rail.offer_axes)
        middle.addWidget(self.stage, 1)
        whole = QWidget()
        column = QVBoxLayout(whole)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.head)
        column.addLayout(middle, 1)
        column.addWidget(self.bar)
        self.setCentralWidget(whole)
        return whole

    def _fill_menu(self) -> None:
        session, menu = self.session, self.head.menu
        self.actions_by_name: dict[str, QAction] = {}
        for name, text, key, act in (
            ("open", "Open …", "Ctrl+O", self.ask_open),
            ("window", "New window", "Ctrl+N", self.new_window),
            ("rename", "Rename", "Shift+F2", self.head.rename),
            ("notes", "Notes", "F9", lambda: self.sheets.notes.toggle()),
            ("save", "Save", "Ctrl+S", self.save),
            ("save_as", "Save as …", "Ctrl+Shift+S", self.save_as),
            ("export", "Export the plan …", "Ctrl+Shift+E", self.export),
            ("undo", "Undo", "Ctrl+Z", session.bench.undo),
            ("redo", "Redo", "Ctrl+Shift+Z", session.bench.redo),
            ("light", "Night", "Ctrl+L", self.change_light),
            ("keys", "Keys", "F1", lambda: self.sheets.keys.toggle()),
        ):
            action = menu.addAction(f"{text}\t{key}")
            action.triggered.connect(lambda _checked=False, a=act: a())
            self.actions_by_name[name] = action
        menu.aboutToShow.connect(self._refresh_menu)
        self.recent_menu = QMenu("Open recent", menu)
        menu.insertMenu(self.actions_by_name["window"], self.recent_menu)
        self.example_menu = QMenu("Examples", menu)
        self.example_menu.setToolTipsVisible(True)
        menu.insertMenu(self.actions_by_name["window"], self.example_menu)
        for file, (name, does) in EXAMPLES.items():
            example = self.example_menu.addAction(name)
            example.setToolTip(does)
            example.triggered.connect(lambda _checked=False, own=file: self.open_example(own))

    def _refresh_menu(self) -> None:
        document, named = self.session.document, self.actions_by_name
        for name, past, key in (("undo", document.undo_name, "Ctrl+Z"), ("redo", document.redo_name, "Ctrl+Shift+Z")):
            what = f"{name.capitalize()}: {unaccelerated(past)}" if past else name.capitalize()
            named[name].setText(f"{what}\t{key}")
            named[name].setEnabled(past is not None and not self.session.running.active)
        for name in ("open", "rename"):
            named[name].setEnabled(not self.session.running.active)
        self.example_menu.setEnabled(not self.session.running.active)
        self.recent_menu.clear()
        for path in self.memory.recent:
            action = self.recent_menu.addAction(unaccelerated(path.name))
            action.setToolTip(literal(str(path)))
            action.triggered.connect(lambda _checked=False, p=path: self.open_other(p))
        self.recent_menu.setEnabled(not self.recent_menu.isEmpty() and not self.session.running.active)
        named["light"].setText(("Day" if self.session.theme.night else "Night") + "\tCtrl+L")

    def show_station(self, key: str) -> None:
        """Open a station by its key."""
        self.head.chain.plates[key].setChecked(True)
        self.pages.show_page(key)
        # No field is entered by itself: the keys go on meaning the playhead.
        self.page.setFocus()

    def show_place(self, place: KeyPath) -> None:
        """Go to where a place of the machine is seen, and into its field where it has one."""
        navigation.choose(self.session, place)
        station = navigation.station_of(place)
        if station is not None:
            self.show_station(station)
        self.page.setFocus()
        if station is not None and isinstance(self.page, StationPage):
            self.page.show_place(place)
        navigation.enter_field(self.page, place)

    def _add_keys(self) -> None:
        session = self.session
        keys: dict[str, Callable[[], object]] = {
            "Ctrl+O": self.ask_open,
            "Ctrl+S": self.save,
            "Ctrl+Shift+S": self.save_as,
            "Ctrl+Shift+E": self.export,
            "Ctrl+Z": session.bench.undo,
            "Ctrl+Shift+Z": session.bench.redo,
            "Ctrl+R": lambda: self.run_page.head.go.click(),
            "Ctrl+Shift+R": lambda: self.run_page.head.go_on.click(),
            "Ctrl+B": session.bench.start.go,
            "Ctrl+K": session.bench.keep_move,
            "Ctrl+M": self.compose,
            "Ctrl+L": self.change_light,
            "Ctrl+N": self.new_window,
            "Shift+F2": self.head.rename,
            "F1": lambda: self.sheets.keys.toggle(),
            "F8": lambda: self.sheets.findings.toggle(),
            "F9": lambda: self.sheets.notes.toggle(),
            "F10": self.head.show_menu,
            **{f"Alt+{k + 1}": partial(self.show_station, key) for k, key in enumerate(STATIONS)},
            "Space": session.bench.toggle_play,
            "Left": lambda: session.bench.step(-1),
            "Right": lambda: session.bench.step(1),
            "Home": lambda: session.playhead.go(0.0),
            "End": lambda: session.playhead.go(session.planning.duration_s),
            "Escape": self.escape,
        }
        for key, action in keys.items():
            QShortcut(QKeySequence(key), self, action)

    def compose(self) -> None:
        """Go to the Run station and type a move."""
        self.show_station("run")
        self.run_page.focus_first_target()

    def escape(self) -> None:
        """Stop whatever moves; with nothing moving, close the notice and leave a field."""
        if self.session.running.active or self.session.playhead.playing:
            self.session.bench.stop()
            return
        self.notice.hide()
        for sheet in self.sheets.open:
            sheet.hide()
        field = QApplication.focusWidget()
        if isinstance(field, QLineEdit):
            field.clearFocus()

    def _retitle(self) -> None:
        document = self.session.document
        name = self.session.document.machine.name or (document.path.stem if document.path else "Machine")
        self.setWindowTitle(f"{name}[*] – Kivant")
        self.setWindowModified(document.modified)

    def _light(self) -> None:
        app = QApplication.instance()
        if isinstance(app, QApplication):
            themes.apply(app, self.session.theme)

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() == QEvent.Type.WindowStateChange:
            self.placement.fit_soon()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.button_keys.press(event):
            super().keyPressEvent(event)

    def event(self, event: QEvent) -> bool:
        asked = event.type() == QEvent.Type.ShortcutOverride
        if asked and isinstance(event, QKeyEvent) and self.button_keys.means(event):
            event.accept()
            return True
        if event.type() == QEvent.Type.UpdateRequest:
            self.session.planning.catch_up()
            with self.session.hurrying():
                return super().event(event)
        return super().event(event)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.notice.place()
        for sheet in self.sheets.open:
            sheet.place()

    # Looks

    def change_light(self) -> None:
        """Change between day and night; from now on this is what was chosen."""
        self._light_chosen = not self.session.theme.night
        self.session.set_night(self._light_chosen)

    def _follow_desktop(self, scheme: Qt.ColorScheme) -> None:
        """Take the desktop's light, unless one was chosen here."""
        if self._light_chosen is None and self.memory.night is None:
            self.session.set_night(scheme == Qt.ColorScheme.Dark)
