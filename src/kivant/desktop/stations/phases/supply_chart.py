"""The current of a supply over the plan's time, with what it gives at the most and the playhead in it."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter

from kivant.core.drive.feeds import Feed, feeds, greatest_current
from kivant.core.plan import Plan
from kivant.core.supplies import current_after, current_over
from kivant.desktop.kit import figures
from kivant.desktop.kit.chart import Pane, Scale, paint_time_axis
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session
from kivant.desktop.widgets.pictured import Pictured

_SPANS = 600
_REST = 0.06  # of the width, for what flows after the end


class SupplyChart(Pictured):
    """One supply of the machine, by its place among the feeds."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, session.plan_changed, session.theme_changed, session.selection_changed)
        self.number = 0
        self._known: tuple[object, object, tuple[np.ndarray, np.ndarray]] | None = None
        self.setMinimumHeight(150)
        self.setAccessibleName("Current of the supply over the plan")
        session.playhead_moved.connect(self.update)

    def feed(self) -> Feed | None:
        """Return the supply that is shown."""
        found = feeds(self.session.document.machine)
        return found[min(self.number, len(found) - 1)] if found else None

    def show_feed(self, number: int) -> None:
        """Show another supply."""
        if number != self.number:
            self.number = number
            self.redraw()

    def _current(self, plan: Plan, feed: Feed) -> tuple[np.ndarray, np.ndarray]:
        if self._known is None or self._known[0] is not plan or self._known[1] != feed:
            self._known = plan, feed, current_over(plan, feed, _SPANS)
        return self._known[2]

    def _pane(self, plan: Plan, feed: Feed) -> Pane:
        most = max(greatest_current(self.session.document.machine, feed)[0], feed.max_a or 0.0, 1e-3)
        box = QRectF(58, 26, self.width() - 72.0, self.height() - 52.0)
        end = box.right() - box.width() * _REST
        return Pane(box, Scale(0.0, max(plan.duration, 1e-9), box.left(), end), most * 1.12)

    def paint_ground(self, painter: QPainter) -> Iterator[None]:
        plan, feed, theme = self.session.planning.plan, self.feed(), self.session.theme
        if plan is None or feed is None or plan.machine.axes != self.session.document.machine.axes:
            painter.setPen(theme.color("muted"))
            painter.drawText(QRectF(self.rect()), int(Qt.AlignmentFlag.AlignCenter), "No plan to show the current of.")
            return
        pane = self._pane(plan, feed)
        limit = f", gives {feed.max_a:g} A" if feed.max_a is not None else ""
        pane.paint_scale(painter, theme, f"{figures.shortened(feed.name)}{limit}: current, A", 4)
        paint_time_axis(painter, theme, pane.x, pane.box.bottom() + 4, apart=90, words=figures.short)
        yield
        begins, mean = self._current(plan, feed)
        xs = np.repeat(np.append(begins, plan.duration), 2)[1:-1]
        pane.paint_area(painter, theme, theme.color("accent"), xs, np.repeat(mean, 2), 1.8)
        after, end = current_after(plan, feed), pane.x.end
        painter.setPen(theme.pen(theme.color("accent"), 1.8, axis=2))
        painter.drawLine(QPointF(end + 3, pane.y.at(after)), QPointF(pane.box.right(), pane.y.at(after)))
        painter.setFont(font("small"))
        painter.setPen(theme.color("muted"))
        painter.drawText(QRectF(end - 30, pane.box.bottom() + 4, pane.box.right() - end + 30, 18),
                         Qt.AlignmentFlag.AlignRight, "after")  # fmt: skip
        if feed.max_a is not None:
            painter.setPen(theme.pen(theme.color("bad"), 1.4, axis=1))
            painter.drawLine(pane.point(0.0, feed.max_a), QPointF(pane.box.right(), pane.y.at(feed.max_a)))

    def paint_moving(self, painter: QPainter) -> None:
        plan, feed = self.session.planning.plan, self.feed()
        if plan is None or feed is None or self._known is None or self._known[0] is not plan:
            return
        pane, now = self._pane(plan, feed), self.session.playhead.time_s
        x = pane.x.at(min(now, plan.duration))
        theme = self.session.theme
        painter.setPen(theme.pen(theme.color("accent"), 2))
        painter.drawLine(QPointF(x, pane.box.top() - 2), QPointF(x, pane.box.bottom()))
        _begins, mean = self._known[2]
        value = mean[min(int(now / max(plan.duration, 1e-9) * _SPANS), _SPANS - 1)]
        painter.setFont(font("strong"))
        painter.setPen(theme.color("ink"))
        text = f"{value:.3g} A"
        painter.drawText(QRectF(self.width() - 100.0, 2, 86, 18), Qt.AlignmentFlag.AlignRight, text)
