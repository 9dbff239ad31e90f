"""The Finder face: which wires of a motor belong together, reading by reading."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QButtonGroup, QGridLayout, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from kivant.app.finder import WindingFinder
from kivant.core.drive.windings import WIRE_COUNTS, Found, Pair
from kivant.core.machine import Axis
from kivant.core.machine.drives import use_windings
from kivant.desktop.kit.literal import unaccelerated
from kivant.desktop.kit.theme import Role, font
from kivant.desktop.state.per_axis import PerAxis
from kivant.desktop.state.session import Session
from kivant.desktop.stations.phases.bench_ways import BenchWays
from kivant.desktop.stations.phases.face import Face
from kivant.desktop.stations.phases.wire_ring import WireRing
from kivant.desktop.widgets.value_field import ValueField

_SAID = {
    "two_coils": "Two separate coils.",
    "two_tapped": "Two coils, each with a tap in its middle.",
    "common_tap": "Two coils whose taps are joined.",
    "four_coils": "Four separate coils.",
    "incomplete": "",
    "contradictory": "The readings contradict each other.",
}
_POLARITY = (
    "Which two make a winding: join an end of each and put a low voltage on the free ends. If the shaft holds hard, "
    "they help each other, and so they go in series; if it hardly holds, reverse one; otherwise try another pair."
)
_COMMON = "No meter tells which ends are opposite: try the orders at Wires."
_ROWS, _COLUMNS = 7, 2


class FinderFace(Face):
    """The ring of wires, the reading that is asked for, and what follows."""

    beside_rotor = with_lines = False

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._finders = PerAxis(session, WindingFinder)
        self.ring = WireRing(session)
        self.ring.picked.connect(self._pick)
        self.counts = {count: self._count_button(count) for count in WIRE_COUNTS}
        self.names = [self._name_field(place) for place in range(max(WIRE_COUNTS))]
        self.asked = QLabel()
        self.asked.setFont(font("heading"))
        self.asked.setTextFormat(Qt.TextFormat.PlainText)
        self.reading = ValueField(session, "Reading", lambda: "", self._take, "figure")
        self.reading.setPlaceholderText("ohms, open, connected")
        self.reading.setToolTip("What the meter shows: 8.1, open, or connected. Enter accepts it and goes on.")
        self.reading.setFixedWidth(190)
        self.verdict = self._label("strong")
        self.faults = self._label("small")
        self.use = QPushButton("Use it")
        self.use.setProperty("kind", "main")
        self.use.clicked.connect(self._use)
        self.clear = QPushButton("Start over")
        self.clear.clicked.connect(self._clear)
        self._list = QGridLayout()
        self.removers: list[QPushButton] = []
        self._lay_out()

    def _label(self, role: Role) -> QLabel:
        label = QLabel()
        label.setFont(font(role))
        label.setWordWrap(True)
        label.setTextFormat(Qt.TextFormat.PlainText)
        label.setMinimumHeight(40 if role == "small" else 20)
        label.setAlignment(Qt.AlignmentFlag.AlignTop)
        return label

    def _count_button(self, count: int) -> QPushButton:
        button = QPushButton(str(count))
        button.setProperty("kind", "plain")
        button.setCheckable(True)
        button.setToolTip(f"The motor has {count} wires.")
        button.clicked.connect(lambda: self._set_count(count))
        return button

    def _name_field(self, place: int) -> ValueField:
        def show() -> str:
            wires = self.finder.wires
            return wires[place] if place < len(wires) else ""

        def take(text: str, _merge: bool) -> None:
            self.finder.rename(place, text)
            self._refresh()

        field = ValueField(self.session, f"Name of wire {place + 1}", show, take)
        field.setFixedWidth(74)
        field.setToolTip("The wire's colour or number.")
        return field

    def _lay_out(self) -> None:
        group = QButtonGroup(self)
        counts = QHBoxLayout()
        counts.addWidget(QLabel("wires of the motor"))
        for button in self.counts.values():
            group.addButton(button)
            counts.addWidget(button)
        counts.addStretch(1)
        names = QGridLayout()
        names.setHorizontalSpacing(10)
        names.setVerticalSpacing(2)
        for place, field in enumerate(self.names):
            names.addWidget(field, place // 4, place % 4)
        names.setColumnStretch(4, 1)
        asked = QHBoxLayout()
        asked.addWidget(self.reading)
        asked.addStretch(1)
        buttons = QHBoxLayout()
        buttons.addWidget(self.use)
        buttons.addWidget(self.clear)
        buttons.addStretch(1)
        listed = QWidget()
        self._list.setContentsMargins(0, 0, 0, 0)
        self._list.setVerticalSpacing(0)
        listed.setLayout(self._list)
        right = QVBoxLayout()
        right.setSpacing(6)
        for item in (counts, names):
            right.addLayout(item)
        right.addSpacing(6)
        right.addWidget(self.asked)
        right.addLayout(asked)
        right.addWidget(self.verdict)
        right.addWidget(self.faults)
        right.addLayout(buttons)
        right.addWidget(listed)
        right.addStretch(1)
        left = QVBoxLayout()
        left.addWidget(self.ring, 1)
        self.ways = BenchWays(self.session)
        left.addWidget(self.ways)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 10, 0, 0)
        row.setSpacing(28)
        row.addLayout(left, 10)
        row.addLayout(right, 9)

    @property
    def finder(self) -> WindingFinder:
        """The wires and readings of the chosen axis's motor; they belong to the open document."""
        return self._finders.now

    # What is done

    def _set_count(self, count: int) -> None:
        self.finder.set_count(count)
        self._refresh()

    def _pick(self, first: str, second: str) -> None:
        self.finder.choose(first, second)
        self._refresh()
        self.reading.setFocus()

    def _take(self, text: str, _merge: bool) -> None:
        if text.strip():
            self.finder.take(text)
            self._refresh()

    def _remove(self, pair: Pair) -> None:
        self.finder.remove(pair)
        self._refresh()

    def _clear(self) -> None:
        self.finder.readings.clear()
        self.finder.chosen = None
        self._refresh()

    def _use(self) -> None:
        axis = self.session.choice.axis
        if axis is not None:
            edit = use_windings(self.session.choice.index, self.finder.found)
            if self.session.try_edit(edit, f"windings of {axis.name}"):
                self.session.notice("The windings are in the axis: see Wires for the cords, and Current for the coil.")

    # What is shown

    def follow(self, axis: Axis) -> None:
        """Show what was read of the motor of an axis."""
        self._refresh()

    def _refresh(self) -> None:
        finder = self.finder
        self.ring.finder = finder
        self.ring.first = None
        self.ring.update()
        for count, button in self.counts.items():
            button.setChecked(count == len(finder.wires))
        for place, field in enumerate(self.names):
            field.setVisible(place < len(finder.wires))
            field.refresh()
            field.setEnabled(True)
        found, pair = finder.found, finder.pair
        self.reading.setEnabled(pair is not None)
        if pair is not None:
            self.asked.setText(f"Between {pair[0]} and {pair[1]} the meter shows:")
        elif found.kind == "contradictory":
            self.asked.setText("Measure again as told below.")
        else:
            self.asked.setText("No other reading is needed.")
        self.verdict.setText(self._words(found))
        more = {"four_coils": _POLARITY, "common_tap": _COMMON}.get(found.kind, "")
        self.faults.setText(" ".join([*found.faults, more]).strip())
        self.use.setEnabled(found.kind not in ("incomplete", "contradictory") and not self.session.running.active)
        self._relist()

    def _words(self, found: Found) -> str:
        parts = []
        for winding in found.windings:
            tap = f", tap {winding.tap}" if winding.tap else ""
            ohm = f", {winding.ohm:.2g} ohm" if winding.ohm is not None else ""
            parts.append(f"{winding.ends[0]} to {winding.ends[1]}{tap}{ohm}")
        if found.common is not None:
            parts.append(f"common wire {found.common}")
        count = len(self.finder.readings)
        told = _SAID[found.kind] or (f"{count} readings: not known yet." if count else "Nothing was measured yet.")
        return f"{told} {'; '.join(parts)}{'.' if parts else ''}".strip()

    def _relist(self) -> None:
        while (item := self._list.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        self.removers = []
        readings = self.finder.readings[-_ROWS * _COLUMNS :]
        for k, reading in enumerate(readings):
            seen = reading.seen if isinstance(reading.seen, str) else f"{reading.seen:.4g} ohm"
            button = QPushButton(unaccelerated(f"{reading.wires[0]} – {reading.wires[1]}   {seen}   ×"))
            button.setProperty("kind", "plain")
            button.setToolTip("Remove this reading.")
            button.clicked.connect(lambda _checked=False, p=reading.wires: self._remove(p))
            self.removers.append(button)
            self._list.addWidget(button, k % _ROWS, k // _ROWS, Qt.AlignmentFlag.AlignLeft)
        self._list.setColumnStretch(_COLUMNS, 1)
