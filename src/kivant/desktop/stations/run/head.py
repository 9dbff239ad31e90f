"""The head of the Run station: what to run, the plan in a sentence, and the button."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QSize, Qt
from PySide6.QtGui import QPaintEvent, QPolygonF
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QPushButton, QSizePolicy, QWidget

from kivant.core.findings.finding import errors_in
from kivant.desktop.kit import figures
from kivant.desktop.kit.literal import literal
from kivant.desktop.kit.painted import painting
from kivant.desktop.kit.theme import Token, font
from kivant.desktop.kit.words import places_words
from kivant.desktop.state.session import Session

OWN = "A move of your own"


class Choice(QComboBox):
    """A list of routines with a drawn arrow in the window's own ink."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        with painting(self) as painter:
            painter.setPen(self.session.theme.pen(self.session.theme.color("muted"), 2))
            x, y = self.width() - 20.0, self.height() / 2
            painter.drawPolyline(QPolygonF([QPointF(x - 5, y - 3), QPointF(x, y + 3), QPointF(x + 5, y - 3)]))


class RunHead(QWidget):
    """A routine is chosen here, or a move of one's own; then it is run."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.choice = Choice(session)
        self.choice.setFont(font("title"))
        self.choice.setAccessibleName("What to run")
        self.choice.setMinimumWidth(300)
        self.choice.setMaximumWidth(460)
        self.choice.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        self.sentence = QLabel()
        self.sentence.setTextFormat(Qt.TextFormat.PlainText)
        self.sentence.setFont(font("text"))
        self.sentence.setWordWrap(True)
        self.sentence.setMaximumHeight(42)
        self.sentence.setMinimumWidth(80)
        self.sentence.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.sentence.setAccessibleName("Summary of the plan")
        self.keep = QPushButton("Save as a routine")
        self.keep.setToolTip("Add this move to the machine as a routine (Ctrl+K).")
        self.go_on = QPushButton("Go on")
        self.go_on.setToolTip("Run the rest, from where the axes were stopped (Ctrl+Shift+R).")
        self.to_start = QPushButton("Go to its start")
        self.go = QPushButton("Run")
        self.go.setProperty("kind", "main")
        self.go.setFont(font("heading"))
        self.go.setFixedSize(QSize(120, 42))
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(14)
        row.addWidget(self.choice)
        row.addWidget(self.sentence, 1)
        row.addWidget(self.keep)
        row.addWidget(self.go_on)
        row.addWidget(self.to_start)
        row.addWidget(self.go)
        self.choice.activated.connect(lambda index: session.choice.choose_routine(self.choice.itemData(index)))
        self.keep.clicked.connect(session.bench.keep_move)
        self.go_on.clicked.connect(session.running.go_on)
        self.to_start.clicked.connect(session.bench.start.go)
        self.go.clicked.connect(session.running.start)
        session.settled.connect(self.refresh)

    def rebuild(self) -> None:
        """Make the list of routines anew, where it is another one."""
        names = [routine.name for routine in self.session.document.machine.routines]
        if [self.choice.itemData(k) for k in range(1, self.choice.count())] == names and self.choice.count():
            return
        self.choice.clear()
        self.choice.addItem(OWN, None)
        for routine in self.session.document.machine.routines:
            self.choice.addItem(routine.name, routine.name)

    def refresh(self) -> None:
        """Show what the plan says and what can be done now."""
        session = self.session
        own = session.choice.routine_name is None
        wanted = 0 if own else max(self.choice.findData(session.choice.routine_name), 0)
        if self.choice.currentIndex() != wanted:
            self.choice.setCurrentIndex(wanted)
        self.choice.setEnabled(not session.running.active)
        self.keep.setVisible(own)
        self.keep.setEnabled(
            session.planning.plan is not None and bool(session.planning.plan.blocks) and not session.running.active
        )
        text, token = self.figures()
        self.sentence.setText(text)
        self.sentence.setToolTip(literal(text))
        palette, color = self.sentence.palette(), session.theme.color(token)
        if palette.color(self.sentence.foregroundRole()) != color:
            palette.setColor(self.sentence.foregroundRole(), color)
            self.sentence.setPalette(palette)
        self.go_on.setVisible(session.running.can_go_on)
        away = session.bench.start.away
        self.to_start.setVisible(bool(away))
        self.to_start.setEnabled(not session.running.address_error)
        where = places_words(session.document.machine, away)
        self.to_start.setToolTip(literal(f"Move to where this routine begins (Ctrl+B): {where}."))
        obstacle = session.running.address_error or session.running.obstacle
        self.go.setEnabled(not session.running.active and not obstacle)
        self.go.setText("Running" if session.running.active else "Run")
        self.go.setToolTip(literal(obstacle or "Send this plan to the board and run it (Ctrl+R)."))

    def figures(self) -> tuple[str, Token]:
        """Return the plan in a sentence, and the token of its colour."""
        session, plan = self.session, self.session.planning.plan
        if not session.document.machine.axes:
            return "This machine has no axes yet.", "muted"
        if session.choice.routine_name is None and session.own_move.errors:
            name, text = next(iter(session.own_move.errors.items()))
            return f"{name}: {text}", "bad"
        if session.planning.error is not None:
            fault = session.planning.error.faults[0]
            return fault.said, "bad"
        if plan is None:
            return "Planning …", "muted"
        if session.choice.routine_name is None and not plan.blocks:
            return "Type where each axis should go; they start and arrive together.", "muted"
        if session.running.active and session.running.plan is plan and session.running.status:
            left = max(plan.duration - session.running.status.elapsed_s, 0.0)
            return (
                f"{session.running.status.phase}: {100 * session.running.progress:.0f} %, {left:.1f} s to go",
                "accent",
            )
        if not session.planning.busy and session.running.obstacle and errors_in(session.planning.findings):
            return session.running.obstacle, "bad"
        moving = [axis.name for axis in plan.axes if axis.steps]
        blocks = f"{len(plan.blocks)} blocks" if len(plan.blocks) != 1 else "1 block"
        who = f"{len(moving)} axes" if len(moving) != 1 else moving[0]
        return f"{who}, {blocks}, {figures.seconds(plan.duration)}", "muted"
