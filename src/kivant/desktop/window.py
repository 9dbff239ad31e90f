"""The window: head, rail, stage and playhead bar, with the menu and the keys."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QEvent, QPoint, Qt
from PySide6.QtGui import (
    QAction,
    QGuiApplication,
    QKeySequence,
    QResizeEvent,
    QShortcut,
)
from PySide6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QLineEdit,
    QMenu,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from kivant.app.document import Document
from kivant.desktop import places
from kivant.desktop import theme as themes
from kivant.desktop.empty_stage import EmptyStage
from kivant.desktop.filed_window import FiledWindow
from kivant.desktop.findings_list import FindingsList
from kivant.desktop.head import Head
from kivant.desktop.keys_sheet import KeysSheet
from kivant.desktop.log_sheet import LogSheet
from kivant.desktop.notice import Notice
from kivant.desktop.phases_station import PhasesStation
from kivant.desktop.playhead_bar import PlayheadBar
from kivant.desktop.rail import Rail
from kivant.desktop.ramp_station import RampStation
from kivant.desktop.run_station import RunStation
from kivant.desktop.travel_station import TravelStation
from kivant.desktop.value_field import ValueField


class Window(FiledWindow):
    """One open machine."""

    def __init__(self, document: Document, *, night: bool = False, folder: Path | None = None) -> None:
        super().__init__(document, night=night, folder=folder)
        self.head = Head(self.session)
        self.rail = Rail(self.session)
        self.station = RunStation(self.session)
        self.bar = PlayheadBar(self.session)
        whole = self._lay_out()
        self.notice = Notice(whole, self.session)
        self.setMinimumSize(1000, 660)
        self.resize(*(self.memory.size or (1280, 800)))
        self.empty.open.clicked.connect(self.ask_open)
        self.empty.add.clicked.connect(lambda: self.rail.offer_axes(self.empty.add))
        self.findings = FindingsList(whole, self.session, self.show_place)
        self.log = LogSheet(whole, self.session)
        self.keys = KeysSheet(whole, self.session)
        self.sheets = (self.findings, self.log, self.keys)
        self._add_keys()
        self._fill_menu()
        for number, plate in enumerate(self.head.chain.plates):
            plate.clicked.connect(lambda _checked=False, n=number: self.show_station(n))
        self.head.findings.clicked.connect(self.findings.toggle)
        self.session.machine_changed.connect(self._retitle)
        self.session.theme_changed.connect(self._light)
        self.session.noticed.connect(self.notice.tell)
        self.station.board.log_wanted.connect(self.log.toggle)
        QGuiApplication.styleHints().colorSchemeChanged.connect(self._follow_desktop)
        self._retitle()
        self.station.lanes.setFocus()

    def show_where_it_was(self) -> None:
        """Show the window where it was left, if there is still a screen there."""
        place = self.memory.place
        if place is not None and QApplication.screenAt(QPoint(place[0] + 80, place[1] + 20)) is not None:
            geometry = self.geometry()
            geometry.moveTo(*place)
            self.setGeometry(geometry)
        if self.memory.maximized:
            self.showMaximized()
        else:
            self.show()

    def _lay_out(self) -> QWidget:
        middle = QHBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(self.rail)
        self.stages = QStackedWidget()
        for stage in (
            PhasesStation(self.session),
            TravelStation(self.session),
            RampStation(self.session),
            self.station,
        ):
            self.stages.addWidget(stage)
        self.stages.setCurrentWidget(self.station)
        self.empty = EmptyStage(self.session)
        self._stage = QStackedWidget()
        for page in (self.stages, self.empty):
            self._stage.addWidget(page)
        self.session.machine_changed.connect(self._set_stage)
        self._set_stage()
        middle.addWidget(self._stage, 1)
        whole = QWidget()
        column = QVBoxLayout(whole)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.head)
        column.addLayout(middle, 1)
        column.addWidget(self.bar)
        self.setCentralWidget(whole)
        return whole

    def _set_stage(self) -> None:
        """Show the open station, or what to do first where the machine has no axes."""
        self._stage.setCurrentWidget(self.stages if self.session.machine.axes else self.empty)

    def _fill_menu(self) -> None:
        session, menu = self.session, self.head.menu
        self.actions_by_name: dict[str, QAction] = {}
        for name, text, key, act in (
            ("open", "Open …", "Ctrl+O", self.ask_open),
            ("window", "New window", "Ctrl+N", self.new_window),
            ("rename", "Rename", "Shift+F2", self.head.rename),
            ("save", "Save", "Ctrl+S", self.save),
            ("save_as", "Save as …", "Ctrl+Shift+S", self.save_as),
            ("undo", "Undo", "Ctrl+Z", session.undo),
            ("redo", "Redo", "Ctrl+Shift+Z", session.redo),
            ("light", "Night", "Ctrl+L", self.change_light),
            ("keys", "Keys", "F1", self.keys.toggle),
        ):
            action = menu.addAction(f"{text}\t{key}")
            action.triggered.connect(lambda _checked=False, a=act: a())
            self.actions_by_name[name] = action
        menu.aboutToShow.connect(self._refresh_menu)
        self.recent_menu = QMenu("Open lately", menu)
        menu.insertMenu(self.actions_by_name["window"], self.recent_menu)

    def _refresh_menu(self) -> None:
        document, named = self.session.document, self.actions_by_name
        for name, past, key in (("undo", document.undo_name, "Ctrl+Z"), ("redo", document.redo_name, "Ctrl+Shift+Z")):
            named[name].setText(f"{name.capitalize()}: {past}\t{key}" if past else f"{name.capitalize()}\t{key}")
            named[name].setEnabled(past is not None and not self.session.running)
        for name in ("open", "rename"):
            named[name].setEnabled(not self.session.running)
        self.recent_menu.clear()
        for path in self.memory.recent:
            action = self.recent_menu.addAction(path.name)
            action.setToolTip(str(path))
            action.triggered.connect(lambda _checked=False, p=path: self.open_other(p))
        self.recent_menu.setEnabled(not self.recent_menu.isEmpty() and not self.session.running)
        named["light"].setText(("Day" if self.session.theme.night else "Night") + "\tCtrl+L")

    def show_station(self, number: int) -> None:
        """Open the station of a plate, counted from 0."""
        self.head.chain.plates[number].setChecked(True)
        self.stages.setCurrentIndex(number)
        # No field is entered by itself: the keys go on meaning the playhead.
        self.stages.currentWidget().setFocus()

    def show_place(self, place: str) -> None:
        """Go to where a place of the project file is seen, and into its field where it has one."""
        session, axis, routine = self.session, places.axis_of(place), places.routine_of(place)
        if axis is not None:
            session.select(axis)
        if routine is not None and not session.running and routine < len(session.machine.routines):
            session.choose_routine(session.machine.routines[routine].name)
        self.show_station(places.station_of(place))
        for field in self.stages.currentWidget().findChildren(ValueField):
            if axis is not None and field.key == places.key_of(place) and field.isVisible():
                field.setFocus()
                field.selectAll()

    def _add_keys(self) -> None:
        session = self.session
        keys = {
            "Ctrl+O": self.ask_open,
            "Ctrl+S": self.save,
            "Ctrl+Shift+S": self.save_as,
            "Ctrl+Z": session.undo,
            "Ctrl+Shift+Z": session.redo,
            "Ctrl+R": lambda: self.station.head.go.click(),
            "Ctrl+K": session.keep_move,
            "Ctrl+M": self.compose,
            "Ctrl+L": self.change_light,
            "Ctrl+N": self.new_window,
            "Shift+F2": self.head.rename,
            "F1": self.keys.toggle,
            "F8": self.findings.toggle,
            "F10": self.head.show_menu,
            "Alt+1": lambda: self.show_station(0),
            "Alt+2": lambda: self.show_station(1),
            "Alt+3": lambda: self.show_station(2),
            "Alt+4": lambda: self.show_station(3),
            "Space": session.toggle_play,
            "Left": lambda: session.step(-1),
            "Right": lambda: session.step(1),
            "Home": lambda: session.set_playhead(0.0),
            "End": lambda: session.set_playhead(session.duration_s),
            "Escape": self.escape,
        }
        for key, action in keys.items():
            QShortcut(QKeySequence(key), self, action)

    def compose(self) -> None:
        """Go to the Run station and type a move."""
        self.show_station(3)
        self.station.focus_first_target()

    def escape(self) -> None:
        """Stop whatever moves; with nothing moving, close the notice and leave a field."""
        if self.session.running or self.session.playing:
            self.session.stop()
            return
        self.notice.hide()
        for sheet in self.sheets:
            sheet.hide()
        field = QApplication.focusWidget()
        if isinstance(field, QLineEdit):
            field.clearFocus()

    def _retitle(self) -> None:
        document = self.session.document
        name = self.session.machine.name or (document.path.stem if document.path else "Machine")
        self.setWindowTitle(f"{name}[*] – Kivant")
        self.setWindowModified(document.modified)

    def _light(self) -> None:
        app = QApplication.instance()
        if isinstance(app, QApplication):
            themes.apply(app, self.session.theme)

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.UpdateRequest:
            with self.session.hurrying():
                return super().event(event)
        return super().event(event)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.notice.place()
        for sheet in self.sheets:
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
