"""The axis rail: a card for each axis, and one to add more."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QPointF, QSize, Qt
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QMenu, QPushButton, QScrollArea, QVBoxLayout, QWidget

from kivant.core.machine import axes
from kivant.desktop.frame.axis_card import AxisCard, looks
from kivant.desktop.kit.fill import fill
from kivant.desktop.kit.painted import painted
from kivant.desktop.state.session import Session

RAIL_WIDTH = 166


class Rail(QWidget):
    """All axes of the machine, one above the other; smaller cards where there are many."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setFixedWidth(RAIL_WIDTH)
        self.cards: list[AxisCard] = []
        self._inner = QWidget()
        self._column = QVBoxLayout(self._inner)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(0)
        self.add = QPushButton("+ axis")
        self.add.setProperty("kind", "plain")
        self.add.setToolTip("Add a turning or sliding axis on free lines of the board.")
        self.add.clicked.connect(lambda: self.offer_axes(self.add))
        self._area = QScrollArea()
        view = QWidget()
        view.setAutoFillBackground(False)
        # Not the area's own: asked for one that Python has not made, Qt for Python readies every class of widgets.
        self._area.setViewport(view)
        self._area.setWidgetResizable(True)
        self._area.setFrameShape(QScrollArea.Shape.NoFrame)
        self._area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._area.setWidget(self._inner)
        self._area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._inner.setAutoFillBackground(False)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 1, 0)
        outer.addWidget(self._area)
        outer.addWidget(self.add)
        session.machine_changed.connect(self.refresh)
        session.theme_changed.connect(self.update)
        session.run_turned.connect(lambda: self.add.setEnabled(not session.running.active))
        self.rebuild()

    def offer_axes(self, beside: QWidget) -> None:
        """Show the kinds of axes that can be added, beside what was pressed."""
        menu = self.make_menu()
        tall, below = menu.sizeHint().height(), beside.mapTo(self.window(), QPoint(0, beside.height()))
        fits = below.y() + tall <= self.window().height()
        menu.popup(beside.mapToGlobal(QPoint(0, beside.height() if fits else -tall)))

    def make_menu(self) -> QMenu:
        """Return the menu of the kinds of axes that can be added."""
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        for kind in axes.new_axes():
            menu.addAction(kind).triggered.connect(lambda _checked=False, k=kind: self.add_axis(k))
        return menu

    def add_axis(self, kind: str) -> None:
        """Add an axis of a kind and select it."""
        if self.session.try_edit(axes.add_axis(kind), "new axis"):
            self.session.choice.select(len(self.session.document.machine.axes) - 1)

    def sizeHint(self) -> QSize:
        return QSize(RAIL_WIDTH, 400)

    def refresh(self) -> None:
        """Show the machine as it is now; only other axes make other cards."""
        now = self.session.document.machine.axes
        if [(c.axis.name, c.axis.unit) for c in self.cards] != [(a.name, a.unit) for a in now]:
            self.rebuild()
        for card, axis in zip(self.cards, now, strict=True):
            looks_same = looks(card.axis) == looks(axis)
            card.axis = axis
            if not looks_same:
                card.redraw()

    def rebuild(self) -> None:
        """Make the cards anew."""
        while (item := self._column.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        count = len(self.session.document.machine.axes)
        self.cards = [AxisCard(self.session, index, compact=count > 5) for index in range(count)]
        for card in self.cards:
            self._column.addWidget(card)
        self._column.addStretch(1)

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        theme = self.session.theme
        fill(painter, self.rect(), theme.color("sheet"))
        painter.setPen(theme.pen(theme.color("edge"), 1))
        painter.drawLine(QPointF(self.width() - 0.5, 0), QPointF(self.width() - 0.5, self.height()))
