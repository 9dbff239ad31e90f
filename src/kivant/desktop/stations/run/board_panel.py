"""The board beside the run: its address, what is said, and planned against counted at the end."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from kivant.desktop.kit import figures
from kivant.desktop.kit.literal import literal
from kivant.desktop.kit.painted import painted
from kivant.desktop.kit.theme import Token, font
from kivant.desktop.kit.wrong import mark_wrong
from kivant.desktop.state.session import Session
from kivant.desktop.stations.run.record_row import RecordRow
from kivant.desktop.stations.run.spring import ByHand
from kivant.desktop.widgets.value_field import Field

PANEL_WIDTH = 340
_TOP = 40


class BoardPanel(QWidget):
    """Where the plan goes, and what comes back."""

    log_wanted = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setMinimumWidth(260)
        self.setMaximumWidth(PANEL_WIDTH)
        self.address = Field()
        self.address.setPlaceholderText("stand-in, or host:port")
        self.address.setAccessibleName("Board address")
        self.address.setMaxLength(300)
        self.address.editingFinished.connect(self.take_address)
        label = QLabel("Board")
        label.setFont(font("heading"))
        label.setBuddy(self.address)
        row = QHBoxLayout()
        row.setSpacing(12)
        row.addWidget(label)
        row.addWidget(self.address, 1)
        self.log = QPushButton("log")
        self.log.setProperty("kind", "plain")
        self.log.setToolTip("Show the messages to and from the board.")
        self.log.clicked.connect(self.log_wanted)
        row.addWidget(self.log)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        self.by_hand = ByHand(session)
        column.addLayout(row)
        column.addStretch(1)
        self.recording = RecordRow(session)
        column.addWidget(self.recording)
        column.addWidget(self.by_hand)
        session.run_changed.connect(self.refresh)
        session.theme_changed.connect(self.update)
        session.plan_changed.connect(self._tell)
        self.take_address()

    def take_address(self) -> None:
        """Use the typed address; a wrong one is explained and not used."""
        running = self.session.running
        running.set_address(self.address.text())
        message = running.address_error
        mark_wrong(self.address, wrong=bool(message))
        hint = "Empty: the stand-in that comes with Kivant. Or host:port of a board."
        self.address.setToolTip(literal(message or hint))

    def refresh(self) -> None:
        """Show what can be changed now."""
        self.address.setEnabled(not self.session.running.active)
        self._tell()

    def _tell(self) -> None:
        """Have the words painted anew, and nothing of what stands above and below them."""
        self.update(0, _TOP, self.width(), self.recording.y() - _TOP)

    def lines(self) -> list[tuple[Token, str]]:
        """Return what to show as tokens and texts: a fault, the results, or the latest messages."""
        running, status = self.session.running, self.session.running.status
        if running.address_error:
            return [("bad", running.address_error)]
        text = self.session.bench.start.mismatch
        mismatch: list[tuple[Token, str]] = [("warn", text)] if text else []
        if status is None:
            where = "this board" if running.address else "the stand-in that comes with Kivant"
            return mismatch or [("muted", f"Run sends the plan to {where}.")]
        if status.phase == "failed":
            return [("bad", status.message)]
        if status.results:
            found: list[tuple[Token, str]] = []
            for result in status.results:
                counted, planned = figures.grouped(result.board_steps), figures.grouped(result.planned_steps)
                if result.board_steps == result.planned_steps:
                    found.append(("good", f"{result.name}: {counted} counted, as planned"))
                else:
                    found.append(("warn", f"{result.name}: {counted} counted, {planned} planned"))
            return found + mismatch
        log = running.streamer.log if running.streamer else None
        latest = log.since(log.count - 5)[1] if log else []
        return [("muted", f"to  {text}") if way == ">" else ("ink", f"from  {text}") for way, text in latest]

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.setFont(font("small"))
        theme, y = self.session.theme, float(_TOP)
        lines = self.lines()
        for index, (token, text) in enumerate(lines):
            painter.setPen(theme.color(token))
            left = self.recording.y() - y
            if left < 18:
                break
            if left < 36 and index < len(lines) - 1:
                text = f"and {len(lines) - index} more"
            wrap = len(lines) <= 2
            if wrap:
                box = painter.boundingRect(QRectF(0, y, self.width(), left), Qt.TextFlag.TextWordWrap, text)
                painter.drawText(QRectF(0, y, self.width(), left), Qt.TextFlag.TextWordWrap, text)
                y += box.height() + 4
                continue
            shown = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, self.width())
            painter.drawText(QRectF(0, y, self.width(), 18), 0, shown)
            y += 19
        self.setToolTip(literal("\n".join(text for _token, text in lines)[:2000]))
