"""The shelf of poses: places of the axes that are kept with a name, used in blocks and gone to."""

from __future__ import annotations

from collections.abc import Callable
from decimal import Decimal

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QMenu, QPushButton, QScrollArea, QVBoxLayout, QWidget

from kivant.core.machine import Move, Pose
from kivant.core.program import poses
from kivant.desktop.kit.theme import font
from kivant.desktop.stations.routine.pose_card import PoseCard
from kivant.desktop.stations.routine.program import Program
from kivant.desktop.widgets.value_field import ValueField, type_over

_HINT = "A pose keeps the place of all axes. Blocks go to it by name: change the pose, and all of them go there."


class PoseShelf(QWidget):
    """Cards of poses, and what keeps a new one."""

    def __init__(self, program: Program) -> None:
        super().__init__()
        self.program, self.session = program, program.session
        self.cards: list[PoseCard] = []
        self._shown: tuple[object, ...] = ()
        title = QLabel("Poses")
        title.setFont(font("heading"))
        self.keep = self._plain("keep this", "Keep the place of all axes at the playhead as a pose.")
        self.record = self._plain("record", "Keep this place as a pose, and put a move to it after the chosen block.")
        self.keep.clicked.connect(lambda: self.keep_place())
        self.record.clicked.connect(lambda: self.record_place())
        top = QHBoxLayout()
        top.setSpacing(0)
        top.addWidget(title)
        top.addStretch(1)
        top.addWidget(self.keep)
        top.addWidget(self.record)
        self.hint = QLabel(_HINT)
        self.hint.setWordWrap(True)
        self.hint.setFont(font("small"))
        self._column = QVBoxLayout()
        self._column.setContentsMargins(0, 0, 6, 0)
        self._column.setSpacing(3)
        self._column.addStretch(1)
        inside = QWidget()
        inside.setLayout(self._column)
        self.area = QScrollArea()
        self.area.setFrameShape(QScrollArea.Shape.NoFrame)
        self.area.setWidgetResizable(True)
        self.area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.area.setWidget(inside)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addLayout(top)
        column.addWidget(self.hint)
        column.addWidget(self.area, 1)
        self.setFixedWidth(226)

    def _plain(self, text: str, tip: str) -> QPushButton:
        button = QPushButton(text)
        button.setProperty("kind", "plain")
        button.setToolTip(tip)
        return button

    @property
    def poses(self) -> tuple[Pose, ...]:
        """The poses of the machine."""
        return self.session.document.machine.poses or ()

    def refresh(self) -> None:
        """Show the poses there are."""
        machine = self.session.document.machine
        if self._shown != (self.poses, machine.axes):
            self._shown = self.poses, machine.axes
            for card in self.cards:
                card.hide()
                card.deleteLater()
            self.cards = [PoseCard(self.session, pose) for pose in self.poses]
            for index, card in enumerate(self.cards):
                self._column.insertWidget(index, card)
                card.show()
                card.used.connect(lambda k=index: self.use(k))
                card.gone_to.connect(lambda k=index: self.go(k))
                card.renamed.connect(lambda k=index: self.type_name(k))
                card.asked.connect(lambda at, k=index: self._ask(k, at))
        self.hint.setVisible(not self.cards)
        free = not self.session.running.active
        for button in (self.keep, self.record):
            button.setEnabled(free and bool(machine.axes))
        for card in self.cards:
            card.refresh()

    # What is done

    def here(self) -> dict[str, Decimal]:
        """Return where all axes are: as counted while one is moved by hand, else at the playhead."""
        instant, machine = self.session.instant, self.session.document.machine
        return {
            axis.name: poses.kept_place(axis, instant.position_of(index)) for index, axis in enumerate(machine.axes)
        }

    def stands(self) -> dict[str, Decimal]:
        """Return where the axes stand on the board, as far as it is known."""
        machine = self.session.document.machine
        standing = self.session.running.standing.of(machine)
        return {
            axis.name: poses.kept_place(axis, float(standing[axis.name]))
            for axis in machine.axes
            if axis.name in standing
        }

    def keep_place(self, at: dict[str, Decimal] | None = None) -> bool:
        """Keep a place (this one) as a pose, and have its name typed."""
        at = at if at is not None else self.here()
        if not at or not self.session.try_edit(poses.keep_pose("Pose", at), "keep a pose"):
            return False
        self.refresh()
        self.type_name(len(self.cards) - 1)
        return True

    def record_place(self) -> bool:
        """Keep where the axes stand on the board (this place, if they have not moved), and go there by a block."""
        at = self.stands() or self.here()
        if not self.session.try_edit(poses.keep_pose("Place", at), "record a place"):
            return False
        self.refresh()
        return self.program.insert([Move(pose=self.poses[-1].name)], "record a place")

    def use(self, index: int) -> bool:
        """Put a move to a pose behind the current block."""
        name = self.poses[index].name
        return self.program.insert([Move(pose=name)], f"move to “{name}”")

    def go(self, index: int) -> bool:
        """Move the axes to a pose now, on the board."""
        return self.session.running.go_to(self.poses[index].at)

    def type_name(self, index: int) -> None:
        """Have the name of a pose typed."""
        card = self.cards[index]
        name = card.pose.name

        def take(text: str, _merge: bool) -> None:
            self.session.edit(poses.rename_pose(index, text), "name of a pose")

        self.area.ensureWidgetVisible(card)
        field = ValueField(self.session, "Name of the pose", lambda: name, take)
        type_over(card, card.name_box(), field)
        field.selectAll()

    def _ask(self, index: int, at: QPoint) -> None:
        menu, name = QMenu(self), self.poses[index].name
        stands = self.stands()
        entries: tuple[tuple[str, Callable[[], object], bool], ...] = (
            ("Rename\tF2", lambda: self.type_name(index), True),
            ("Move it to this place", lambda: self._move(index, self.here()), True),
            ("Move it to where the axes stand", lambda: self._move(index, stands), bool(stands)),
            ("Delete", lambda: self.session.try_edit(poses.delete_pose(index), f"delete the pose “{name}”"), True),
        )
        for text, act, possible in entries:
            action = menu.addAction(text)
            action.setEnabled(possible and not self.session.running.active)
            action.triggered.connect(lambda _checked=False, do=act: do())
        menu.popup(at)

    def _move(self, index: int, at: dict[str, Decimal]) -> None:
        self.session.try_edit(poses.move_pose(index, at), f"change the pose “{self.poses[index].name}”")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        focused = [index for index, card in enumerate(self.cards) if card.hasFocus()]
        if event.key() == Qt.Key.Key_Delete and focused:
            self.session.try_edit(poses.delete_pose(focused[0]), f"delete the pose “{self.poses[focused[0]].name}”")
        elif event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down) and focused:
            step = 1 if event.key() == Qt.Key.Key_Down else -1
            self.cards[min(max(focused[0] + step, 0), len(self.cards) - 1)].setFocus()
        else:
            super().keyPressEvent(event)
