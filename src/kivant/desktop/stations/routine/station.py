"""The Routine station: the blocks in time, above, and in words with their positions, below."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QHideEvent, QKeyEvent, QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QSplitter, QVBoxLayout, QWidget

from kivant.core.machine import Axis
from kivant.core.path import Path
from kivant.core.program.editing import place_of_path
from kivant.core.program.reading import EXAMPLES
from kivant.desktop.state.session import Session
from kivant.desktop.stations.routine.acts import Acts
from kivant.desktop.stations.routine.beginning import Beginning
from kivant.desktop.stations.routine.block_list import BlockList
from kivant.desktop.stations.routine.geometry_panel import GeometryPanel
from kivant.desktop.stations.routine.head import RoutineHead
from kivant.desktop.stations.routine.lanes import RoutineLanes
from kivant.desktop.stations.routine.pose_shelf import PoseShelf
from kivant.desktop.stations.routine.program import Program
from kivant.desktop.stations.routine.routines import Routines
from kivant.desktop.stations.routine.tool_view import ToolView
from kivant.desktop.widgets.station_page import StationPage
from kivant.desktop.widgets.value_field import ValueField


class RoutineStation(StationPage):
    """One program, seen three times over: in time, in words and in positions, with one choice and one playhead."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.program = Program(session)
        self.acts, self.routines = Acts(self.program), Routines(self.program)
        self.head = RoutineHead(session, self.acts, self.routines)
        self.lanes = RoutineLanes(session, self.acts)
        self.beginning = Beginning(self.program)
        self.list = BlockList(session, self.acts)
        self.line = ValueField(
            session, "New block", lambda: "", lambda text, merge: self.program.insert_line(text, merge=merge), "text"
        )
        self.line.setToolTip("Type what happens next, then press Enter: it goes after the chosen block.")
        self.shelf = PoseShelf(self.program)
        self.tool = ToolView(self.program, self.shelf)
        self.panel = GeometryPanel(session)
        self.panel.hide()
        self._lay_out()
        self.head.unroll.toggled.connect(self.lanes.unroll)
        self.head.shape.toggled.connect(self.panel.setVisible)
        self.lanes.line_wanted.connect(lambda: self.list.typing.line())
        session.plan_changed.connect(self._take_plan)
        session.findings_changed.connect(self._take_plan)
        session.targets_changed.connect(self.refresh)
        session.holding_changed.connect(self._take_plan)

    def _lay_out(self) -> None:
        row = QHBoxLayout()
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.line)
        words = QWidget()
        column = QVBoxLayout(words)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addWidget(self.beginning)
        column.addWidget(self.list, 1)
        column.addLayout(row)
        below = QWidget()
        beside = QHBoxLayout(below)
        beside.setContentsMargins(0, 0, 0, 0)
        beside.setSpacing(16)
        beside.addWidget(words, 1)
        beside.addWidget(self.shelf)
        self.split = QSplitter(Qt.Orientation.Vertical)
        upper = QWidget()
        across = QHBoxLayout(upper)
        across.setContentsMargins(0, 0, 0, 0)
        across.setSpacing(16)
        across.addWidget(self.lanes, 1)
        across.addWidget(self.tool)
        across.addWidget(self.panel)
        self.split.addWidget(upper)
        self.split.addWidget(below)
        self.split.setChildrenCollapsible(False)
        self.split.setHandleWidth(9)
        self.split.setSizes([270, 300])
        page = QVBoxLayout(self)
        page.setContentsMargins(26, 12, 24, 8)
        page.setSpacing(6)
        page.addWidget(self.head)
        page.addWidget(self.split, 1)

    def follow(self, axis: Axis | None) -> None:
        """Show the chosen routine as it is now."""
        self.program.keep_up()
        self.beginning.refresh()
        self.list.reload()
        names = [own.name for own in self.session.document.machine.axes]
        unit = axis.unit if axis else "mm"
        example = f"{axis.name} by {'90 deg' if unit == 'deg' else '10 mm'}" if axis else EXAMPLES[0]
        more = f" and {names[1]} to 0 together" if len(names) > 1 and axis and names[1] != axis.name else ""
        self.line.setPlaceholderText(f"Type a block: {example}{more} · pause 0.5 s · spin … · repeat 3 times · note …")
        self.line.refresh()
        self.shelf.refresh()
        self.tool.follow()
        self.panel.refresh()
        self._take_plan()

    def _take_plan(self) -> None:
        if not self.isVisible():
            return
        self.list.marks.wrong = self._wrong()
        self.list.tell_plan()
        self.beginning.tell_plan()
        self.head.refresh()

    def _wrong(self) -> dict[tuple[int, ...], str]:
        """Return what is wrong with blocks, by their places: what keeps the plan from being made, and findings."""
        index, session = self.program.index, self.session
        faults = list(session.planning.error.faults) if session.planning.error else []
        places = [(fault.place, fault.message) for fault in faults if isinstance(fault.place, Path)]
        places += [
            (finding.place, finding.message) for finding in session.planning.findings if finding.severity == "error"
        ]
        return {place_of_path(place): words for place, words in places if place.routine == index and "blocks" in place}

    def show_place(self, place: Path) -> None:
        """Choose the block that a path lies in."""
        where, pose = place_of_path(place), place.index_in("poses")
        if pose is not None and pose < len(self.shelf.cards):
            self.shelf.cards[pose].setFocus()
        elif place and place[0] == "geometry":
            self.head.shape.setChecked(True)
        elif place.below("routines", "*", "start") is not None:
            self.beginning.positions.setFocus()
        elif where:
            self.program.choose([where], where)
            self.list.setFocus()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.session.holding.switch(True)

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self.session.holding.switch(False)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Insert:
            self.line.setFocus()
        elif event.text() in ("+", "-", "−", "0"):
            self.lanes.keyPressEvent(event)
        else:
            super().keyPressEvent(event)
