"""What needs attention, as a list: each finding with its place, its remedy, and a button where a machine can do it."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QScrollArea, QVBoxLayout, QWidget

from kivant.core.findings.checks import remedy_of
from kivant.core.findings.finding import Finding
from kivant.core.machine.edits import Edit
from kivant.core.path import Path
from kivant.desktop.kit.literal import literal
from kivant.desktop.kit.severity import looks
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.widgets.sheet import Sheet

_MOST = 60


class FindingsList(Sheet):
    """Each finding with its place and remedy; F8 or Esc closes it."""

    def __init__(self, parent: QWidget, session: Session, go: Callable[[Path], None]) -> None:
        super().__init__(parent, session, "Findings")
        self._go = go
        self.rows: list[tuple[Finding, QPushButton, QPushButton | None]] = []
        self._inner = QWidget()
        self._column = QVBoxLayout(self._inner)
        self._column.setContentsMargins(0, 0, 8, 0)
        area = QScrollArea()
        area.setFrameShape(QScrollArea.Shape.NoFrame)
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setWidget(self._inner)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(18, 14, 10, 14)
        outer.addWidget(area)
        for signal in (session.machine_changed, session.findings_changed, session.theme_changed):
            signal.connect(self.changed)

    def toggle(self) -> None:
        """Open the list with its first row in hand, or close it."""
        super().toggle()
        if self.isVisible() and self.rows:
            self.rows[0][1].setFocus()

    def wanted_height(self) -> int:
        """Return the height of all rows."""
        return 90 + 108 * max(len(self.rows), 1)

    def follow(self) -> None:
        """List the findings as they are now."""
        while (item := self._column.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        self.rows = []
        findings = self.session.planning.findings
        title = QLabel("No problems" if not findings else "Findings")
        title.setFont(font("title"))
        self._column.addWidget(title)
        for finding in findings[:_MOST]:
            self._column.addWidget(self._row(finding))
        if len(findings) > _MOST:
            self._column.addWidget(QLabel(f"and {len(findings) - _MOST} more. Fix these first."))
        self._column.addStretch(1)

    def _row(self, finding: Finding) -> QWidget:
        theme = self.session.theme
        sign, token = looks(finding.severity)
        row = QWidget()
        column = QVBoxLayout(row)
        column.setContentsMargins(0, 6, 0, 2)
        column.setSpacing(2)
        head = QLabel(f"{sign} {finding.severity}")
        head.setFont(font("strong"))
        palette = head.palette()
        palette.setColor(head.foregroundRole(), theme.color(token))
        head.setPalette(palette)
        column.addWidget(head)
        for text in (finding.message, finding.remedy):
            label = QLabel(text)
            label.setWordWrap(True)
            label.setTextFormat(Qt.TextFormat.PlainText)
            column.addWidget(label)
        buttons = QHBoxLayout()
        jump = QPushButton("Show")
        jump.setToolTip(literal(str(finding.place)))
        jump.clicked.connect(lambda: self._jump(finding))
        buttons.addWidget(jump)
        edit = remedy_of(finding)
        mend = None
        if edit is not None:
            mend = QPushButton("Fix")
            mend.setToolTip("Makes the change that the remedy describes. Ctrl+Z undoes it.")
            mend.setEnabled(not self.session.running.active)
            mend.clicked.connect(lambda: self._mend(edit, finding))
            buttons.addWidget(mend)
        buttons.addStretch(1)
        column.addLayout(buttons)
        self.rows.append((finding, jump, mend))
        return row

    def _jump(self, finding: Finding) -> None:
        self.hide()
        self._go(finding.place)

    def _mend(self, edit: Edit, finding: Finding) -> None:
        self.session.try_edit(edit, f"remedy of {finding.code}")
