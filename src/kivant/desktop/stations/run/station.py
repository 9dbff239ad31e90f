"""The Run station: choose or compose a move, see every axis's speed, run it, compare."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from kivant.desktop.state.session import Session
from kivant.desktop.stations.run.axis_panel import AxisPanel
from kivant.desktop.stations.run.board_panel import BoardPanel
from kivant.desktop.stations.run.detail import Detail
from kivant.desktop.stations.run.head import RunHead
from kivant.desktop.stations.run.lanes import Lanes

_MOST_COLUMNS = 6
_MOST_ROWS = 2  # of axis panels; more are scrolled to


class RunStation(QWidget):
    """Positions on top, lanes of speed, the selected axis close up, and the board."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.head = RunHead(session)
        self.lanes = Lanes(session)
        self.detail = Detail(session)
        self.board = BoardPanel(session)
        self.panels: list[AxisPanel] = []
        self._area = QScrollArea()
        self._area.setFrameShape(QScrollArea.Shape.NoFrame)
        self._area.setWidgetResizable(True)
        self._area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        inner = QWidget()
        self._area.setWidget(inner)
        self._grid = QGridLayout(inner)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(22)
        self._grid.setVerticalSpacing(8)
        self._ran = False  # when it was looked at last
        self._lay_out()
        session.machine_changed.connect(self.follow)
        for signal in (session.plan_changed, session.targets_changed, session.run_changed, session.theme_changed):
            signal.connect(self.refresh)
        self.rebuild()

    def _lay_out(self) -> None:
        foot = QHBoxLayout()
        foot.setSpacing(26)
        foot.addWidget(self.detail, 3)
        foot.addWidget(self.board, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(26, 16, 24, 12)
        column.setSpacing(12)
        column.addWidget(self.head)
        column.addWidget(self._area)
        column.addWidget(self.lanes, 3)
        column.addLayout(foot, 2)

    def follow(self) -> None:
        """Show the machine as it is now; only other axes make other panels."""
        axes = self.session.document.machine.axes
        if [(p.axis.name, p.axis.unit) for p in self.panels] != [(a.name, a.unit) for a in axes]:
            self.rebuild()
            return
        for panel, axis in zip(self.panels, axes, strict=True):
            panel.axis = panel.field.axis = axis
        self.head.rebuild()
        self.refresh()

    def rebuild(self) -> None:
        """Make the list of routines and the panels of the axes anew."""
        while (item := self._grid.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        count = len(self.session.document.machine.axes)
        self.panels = [AxisPanel(self.session, i, compact=count > _MOST_COLUMNS) for i in range(count)]
        columns = min(count, _MOST_COLUMNS) or 1
        for index, panel in enumerate(self.panels):
            self._grid.addWidget(panel, index // columns, index % columns)
        for column in range(_MOST_COLUMNS):
            self._grid.setColumnStretch(column, 1 if column < columns else 0)
        before: QWidget = self.head.choice
        for panel in self.panels:
            self.setTabOrder(before, panel.field)
            before = panel.field
        self.head.rebuild()
        self.refresh()

    def _run_begins(self) -> None:
        """Take the focus from what cannot be changed now, before the toolkit gives it to just any button."""
        active = self.session.running.active
        if active and not self._ran:  # once: what the keys go to afterwards is theirs
            self.lanes.setFocus()
        self._ran = active

    def refresh(self) -> None:
        """Give the panels the room they take now."""
        self._run_begins()
        self.head.refresh()
        rows = min(-(-len(self.panels) // _MOST_COLUMNS), _MOST_ROWS)
        height = self.panels[0].height() if self.panels else 0
        self._area.setFixedHeight(rows * height + max(rows - 1, 0) * self._grid.verticalSpacing())

    def focus_first_target(self) -> None:
        """Go to composing a move, at its first target."""
        if not self.session.running.active:
            self.session.choice.choose_routine(None)
            if self.panels:
                self.panels[0].field.setFocus(Qt.FocusReason.ShortcutFocusReason)
