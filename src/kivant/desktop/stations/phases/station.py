"""The Phases station: the rotor, a face of the drive beside it, and the lines around the playhead."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import QHBoxLayout, QLabel, QStackedWidget, QVBoxLayout

from kivant.core.drive.drivers import DRIVERS
from kivant.core.machine import Axis
from kivant.core.machine.drives import change_driver
from kivant.core.path import Path
from kivant.desktop.state.session import Session
from kivant.desktop.stations.phases.face import Face
from kivant.desktop.stations.phases.faces import FACES, face_of
from kivant.desktop.stations.phases.looks import LOOKS
from kivant.desktop.stations.phases.rotor_view import RotorView
from kivant.desktop.widgets.face_strip import FaceStrip
from kivant.desktop.widgets.heading import Heading
from kivant.desktop.widgets.line_strip import LineStrip
from kivant.desktop.widgets.station_page import StationPage
from kivant.desktop.widgets.word_choice import WordChoice


class PhasesStation(StationPage):
    """How the chosen axis's coils are switched."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.heading = Heading()
        kinds = {key: kind.name for key, kind in DRIVERS.items()}
        self.kind = WordChoice(session, Path.of("driver", "kind"), "kind of driver", kinds, change_driver)
        self.names = FaceStrip()
        self.names.chosen.connect(self.show_face)
        self.sentence = QLabel()
        self.sentence.setTextFormat(Qt.TextFormat.PlainText)
        self.rotor = RotorView(session)
        self.strip = LineStrip(session)
        self.strip.setMinimumHeight(150)
        self.stack = QStackedWidget()
        self.faces: dict[str, Face] = {}
        self._wanted = ""  # the face that was asked for; a driver that has it not shows its first one
        self._lay_out()
        for way, key in ((-1, "Ctrl+PgUp"), (1, "Ctrl+PgDown")):
            shortcut = QShortcut(QKeySequence(key), self)
            shortcut.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
            shortcut.activated.connect(lambda w=way: self.names.next(self.face_key, w))
        for signal in (session.playhead_moved, session.plan_changed):
            signal.connect(self._tell)

    def _lay_out(self) -> None:
        head = QHBoxLayout()
        head.setSpacing(8)
        head.addWidget(self.heading)
        head.addWidget(self.kind)
        head.addStretch(1)
        head.addWidget(self.names)
        body = QHBoxLayout()
        body.setSpacing(18)
        body.addWidget(self.rotor, 9)
        body.addWidget(self.stack, 22)
        column = QVBoxLayout(self)
        column.setContentsMargins(26, 10, 24, 10)
        column.setSpacing(4)
        column.addLayout(head)
        column.addWidget(self.sentence)
        column.addLayout(body, 3)
        column.addSpacing(4)
        column.addWidget(self.strip, 1)

    @property
    def face_key(self) -> str:
        """The key of the face that is shown."""
        axis = self.session.choice.axis
        keys = LOOKS[axis.driver.kind].faces if axis else tuple(FACES)
        return self._wanted if self._wanted in keys else keys[0]

    def face(self, key: str) -> Face:
        """Return a face by its key; it is made when it is first asked for."""
        if key not in self.faces:
            self.faces[key] = FACES[key].make(self.session)
            self.stack.addWidget(self.faces[key])
        return self.faces[key]

    def show_face(self, key: str) -> None:
        """Show a face."""
        self._wanted = key
        self.refresh()

    def show_place(self, place: Path) -> None:
        """Show the face in which a place of the machine is seen."""
        axis = self.session.choice.axis
        if axis is not None:
            self.show_face(face_of(place, LOOKS[axis.driver.kind].faces))

    def _tell(self) -> None:
        if self.isVisible():
            self.sentence.setText(self.rotor.words())

    def follow(self, axis: Axis | None) -> None:
        """Show the chosen axis as it is now."""
        if axis is None:
            return
        look, key = LOOKS[axis.driver.kind], self.face_key
        self.heading.tell(axis.name, look.words)
        self.kind.refresh()
        self.sentence.setText(self.rotor.words())
        self.names.offer({name: FACES[name].title for name in look.faces}, key)
        face = self.face(key)
        self.stack.setCurrentWidget(face)
        for part in (self.rotor, self.sentence):
            part.setVisible(face.beside_rotor)
        self.strip.setVisible(face.with_lines)
        face.follow(axis)
