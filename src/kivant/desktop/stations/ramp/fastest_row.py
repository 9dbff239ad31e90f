"""The fastest safe ramp: looked for at a press, told with its reasons, and taken with another."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from kivant.core.machine.ramps import take_limits
from kivant.core.ramps.fastest import changes
from kivant.desktop.kit import figures
from kivant.desktop.kit.literal import literal
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session


class FastestRow(QWidget):
    """A press, the reasons, and a press to take what was found."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.button = QPushButton("Find the fastest")
        self.button.setToolTip("Look for the fastest ramp of this shape that the motor follows with its margin.")
        self.button.setStyleSheet("padding: 3px 10px")
        self.button.clicked.connect(self.seek)
        self.told = QLabel()
        self.told.setFont(font("small"))
        self.told.setTextFormat(Qt.TextFormat.PlainText)
        self.told.setWordWrap(True)
        self.told.setFixedHeight(4 * self.told.fontMetrics().height())
        self.told.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.take = QPushButton()
        self.take.setProperty("kind", "main")
        self.take.setStyleSheet("padding: 3px 10px")
        self.take.clicked.connect(self.apply)
        presses = QVBoxLayout()
        presses.setSpacing(4)
        presses.addWidget(self.button)
        presses.addWidget(self.take)
        presses.addStretch(1)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 2, 0, 0)
        row.setSpacing(12)
        row.addLayout(presses)
        row.addWidget(self.told, 1)

    def seek(self) -> None:
        """Look for it."""
        axis = self.session.choice.axis
        if axis is not None:
            bench = self.session.bench
            bench.tries.seek(bench.machine, self.session.choice.index, self.session.trials.distance(axis))

    def apply(self) -> None:
        """Make what was found the axis's limits."""
        axis, found = self.session.choice.axis, self.session.bench.tries.now.fastest
        if axis is not None and found is not None:
            edit = take_limits(self.session.choice.index, found.limits)
            self.session.try_edit(edit, f"fastest ramp of {axis.name}")

    def refresh(self) -> None:
        """Show what is known now."""
        tries, axis = self.session.bench.tries, self.session.choice.axis
        now, free = tries.now, not self.session.running.active
        self.button.setEnabled(free and axis is not None and not tries.seeking)
        found = now.fastest
        if tries.seeking:
            text = "Searching …"
        elif now.fault is not None:
            text = now.fault.said
        elif found is not None:
            text = " ".join(found.reasons)
        else:
            text = "The fastest ramp of this shape, over this distance, that the motor follows with its margin."
        if text != self.told.text():
            self.told.setText(text)
            self.told.setToolTip(literal(text))
        same = found is not None and axis is not None and found.limits == axis.limits
        self.take.setVisible(found is not None and not same)
        self.take.setEnabled(free)
        if found is not None and axis is not None:
            self.take.setText(f"Take {figures.short(float(f'{found.candidate.seconds:.3g}'))} s")
            told = ", ".join(
                f"{name.replace('_', ' ')} {value}" for name, value in changes(axis.limits, found.limits).items()
            )
            self.take.setToolTip(literal(f"Make these its limits: {told}. Ctrl+Z undoes it."))
