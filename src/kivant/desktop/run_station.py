"""The Run station: choose or compose a move, see every axis's speed, run it, compare."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPolygonF
from PySide6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from kivant.app.document import Document
from kivant.app.examples import load_example
from kivant.desktop import figures
from kivant.desktop.axis_panel import AxisPanel
from kivant.desktop.board_panel import BoardPanel
from kivant.desktop.detail import Detail
from kivant.desktop.lanes import Lanes
from kivant.desktop.session import Session
from kivant.desktop.theme import font

OWN = "A move of your own"
_MOST_COLUMNS = 6
_MOST_ROWS = 2  # of axis panels; more are scrolled to


class Choice(QComboBox):
    """A list of routines with a drawn arrow in the window's own ink."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(self.session.theme.pen(self.session.theme.color("muted"), 2))
        x, y = self.width() - 20.0, self.height() / 2
        painter.drawPolyline(QPolygonF([QPointF(x - 5, y - 3), QPointF(x, y + 3), QPointF(x + 5, y - 3)]))


class EmptyStage(QWidget):
    """What to do while the machine has no axes."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        text = QLabel("This machine has no axes yet.")
        text.setFont(font("title"))
        hint = QLabel("Open a machine of yours, or have a look at the one that comes with Kivant.")
        self.open = QPushButton("Open a machine")
        self.demo = QPushButton("Look at the Banding rig")
        self.demo.setProperty("kind", "main")
        self.demo.clicked.connect(lambda: session.open(Document(load_example())))
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(self.open)
        row.addWidget(self.demo)
        row.addStretch(1)
        column = QVBoxLayout(self)
        column.setSpacing(14)
        column.addStretch(2)
        for label in (text, hint):
            label.setAlignment(Qt.AlignmentFlag.AlignHCenter)
            column.addWidget(label)
        column.addLayout(row)
        column.addStretch(3)


class RunStation(QWidget):
    """The stage of the window as long as there is one station."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.lanes = Lanes(session)
        self.detail = Detail(session)
        self.board = BoardPanel(session)
        self.panels: list[AxisPanel] = []

        self.choice = Choice(session)
        self.choice.setFont(font("title"))
        self.choice.setAccessibleName("What to run")
        self.choice.setMinimumWidth(300)
        self.choice.setMaximumWidth(460)
        self.choice.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        self.sentence = QLabel()
        self.sentence.setFont(font("text"))
        self.sentence.setWordWrap(True)
        self.sentence.setMaximumHeight(42)
        self.sentence.setMinimumWidth(80)
        self.sentence.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.sentence.setAccessibleName("The plan in figures")
        self.keep = QPushButton("Keep as a routine")
        self.keep.setToolTip("Make a routine of this move (Ctrl+K).")
        self.go = QPushButton("Run")
        self.go.setProperty("kind", "main")
        self.go.setFont(font("heading"))
        self.go.setFixedSize(QSize(120, 42))
        self.choice.activated.connect(self._chosen)
        self.keep.clicked.connect(session.keep_move)
        self.go.clicked.connect(session.start_run)

        self.empty = EmptyStage(session)
        self._panels = QWidget()
        self._area = QScrollArea()
        self._area.setFrameShape(QScrollArea.Shape.NoFrame)
        self._area.setWidgetResizable(True)
        self._area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._area.setWidget(self._panels)
        self._grid = QGridLayout(self._panels)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(22)
        self._grid.setVerticalSpacing(8)
        self._lay_out()
        session.machine_changed.connect(self.rebuild)
        for signal in (session.plan_changed, session.targets_changed, session.run_changed, session.theme_changed):
            signal.connect(self.refresh)
        self.rebuild()

    def _lay_out(self) -> None:
        head = QHBoxLayout()
        head.setSpacing(14)
        head.addWidget(self.choice)
        head.addWidget(self.sentence, 1)
        head.addWidget(self.keep)
        head.addWidget(self.go)
        foot = QHBoxLayout()
        foot.setSpacing(26)
        foot.addWidget(self.detail, 3)
        foot.addWidget(self.board, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(26, 16, 24, 12)
        column.setSpacing(12)
        column.addLayout(head)
        column.addWidget(self.empty, 3)
        column.addWidget(self._area)
        column.addWidget(self.lanes, 3)
        column.addLayout(foot, 2)

    def rebuild(self) -> None:
        """Make the list of routines and the panels of the axes anew."""
        machine = self.session.machine
        self.choice.clear()
        self.choice.addItem(OWN, None)
        for routine in machine.routines:
            self.choice.addItem(routine.name, routine.name)
        index = self.choice.findData(self.session.routine_name) if self.session.routine_name is not None else 0
        self.choice.setCurrentIndex(max(index, 0))
        while (item := self._grid.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.deleteLater()
        count = len(machine.axes)
        self.panels = [AxisPanel(self.session, i, compact=count > _MOST_COLUMNS) for i in range(count)]
        columns = min(count, _MOST_COLUMNS) or 1
        for widget in (self.choice, self.sentence, self.keep, self.go, self._area, self.lanes, self.detail):
            widget.setVisible(count > 0)
        self.board.setVisible(count > 0)
        self.empty.setVisible(count == 0)
        for index, panel in enumerate(self.panels):
            self._grid.addWidget(panel, index // columns, index % columns)
        for column in range(_MOST_COLUMNS):
            self._grid.setColumnStretch(column, 1 if column < columns else 0)
        before = self.choice
        for panel in self.panels:
            self.setTabOrder(before, panel.field)
            before = panel.field
        self.refresh()

    def _chosen(self, index: int) -> None:
        self.session.choose_routine(self.choice.itemData(index))

    def refresh(self) -> None:
        """Show what the plan says and what can be done now."""
        session = self.session
        wanted = self.choice.findData(session.routine_name) if session.routine_name is not None else 0
        if self.choice.currentIndex() != wanted:
            self.choice.setCurrentIndex(max(wanted, 0))
        self.choice.setEnabled(not session.running)
        own = session.routine_name is None
        self.keep.setVisible(own and bool(session.machine.axes))
        self.keep.setEnabled(session.plan is not None and bool(session.plan.blocks) and not session.running)
        text, token = self.figures()
        self.sentence.setText(text)
        self.sentence.setToolTip(text)
        palette = self.sentence.palette()
        palette.setColor(self.sentence.foregroundRole(), session.theme.color(token))  # type: ignore[arg-type]
        self.sentence.setPalette(palette)
        rows = min(-(-len(self.panels) // _MOST_COLUMNS), _MOST_ROWS)
        height = self.panels[0].height() if self.panels else 0
        self._area.setFixedHeight(rows * height + max(rows - 1, 0) * self._grid.verticalSpacing())
        obstacle = session.address_error or session.obstacle
        self.go.setEnabled(not session.running and not obstacle)
        self.go.setText("Running" if session.running else "Run")
        self.go.setToolTip(obstacle or "Send this plan to the board and run it (Ctrl+R).")

    def figures(self) -> tuple[str, str]:
        """Return the plan in a sentence, and the token of its colour."""
        session, plan = self.session, self.session.plan
        if not session.machine.axes:
            return "This machine has no axes yet.", "muted"
        if session.routine_name is None and session.target_errors:
            name, text = next(iter(session.target_errors.items()))
            return f"{name}: {text}", "bad"
        if session.plan_error is not None:
            fault = session.plan_error.faults[0]
            return f"{fault.message} {fault.remedy}", "bad"
        if plan is None:
            return "Planning …", "muted"
        if session.routine_name is None and not plan.blocks:
            return "Type where each axis shall go; they start and arrive together.", "muted"
        errors = [finding for finding in plan.findings if finding.severity == "error"]
        if errors:
            return f"{errors[0].message} {errors[0].remedy}", "bad"
        moving = [axis.name for axis in plan.axes if axis.steps]
        blocks = f"{len(plan.blocks)} blocks" if len(plan.blocks) != 1 else "1 block"
        who = f"{len(moving)} axes" if len(moving) != 1 else moving[0]
        return f"{who}, {blocks}, {figures.seconds(plan.duration)}", "muted"

    def focus_first_target(self) -> None:
        """Go to composing a move, at its first target."""
        if not self.session.running:
            self.session.choose_routine(None)
            if self.panels:
                self.panels[0].field.setFocus(Qt.FocusReason.ShortcutFocusReason)
