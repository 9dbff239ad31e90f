"""The segments of one axis: columns for work in bulk, and the latest few as rows, where an array is slower."""

from __future__ import annotations

import bisect
from collections.abc import Callable
from typing import Any

from kivant.core.kept import kept
from kivant.core.motion.segment import Segment, SegmentColumns, SegmentRow, Wholes

_MOST_ROWS = 64  # segments kept as rows


class SegmentTable:
    """Segments in time order, which are asked for when one is first looked at."""

    def __init__(self, cut: Callable[[], SegmentColumns]) -> None:
        """Take what returns the segments."""
        self._cut = cut
        self._rows: dict[int, SegmentRow] = {}

    @kept
    def columns(self) -> SegmentColumns:
        """All of them."""
        return self._cut()

    def __len__(self) -> int:
        return len(self.columns.first)

    def row(self, index: int) -> SegmentRow:
        """Return one of them."""
        row = self._rows.get(index)
        if row is None:
            if len(self._rows) >= _MOST_ROWS:
                self._rows.clear()
            row = self._rows[index] = Segment._make(column.item(index) for column in self.columns)
        return row

    def pick(self, which: Wholes) -> SegmentColumns:
        """Return some of them, as columns."""
        return Segment._make(column[which] for column in self.columns)

    def within(self, span: tuple[float, float]) -> SegmentColumns:
        """Return those that lie in a span of time, s, or reach into it, as columns of shape (segments, 1)."""
        every = self.columns
        first = max(int(every.begin_s.searchsorted(span[0], "right")) - 1, 0)
        last = int(every.begin_s.searchsorted(span[1], "left"))
        return Segment._make([column[first:last, None] for column in every])

    def of_step(self, step: int) -> int:
        """Return which one a step is on."""
        return bisect.bisect_right(self.columns.first.data, step) - 1

    def at(self, times: Any) -> Any:
        """Return on or behind which one a time lies, or each of many, s; -1 before all."""
        return self.columns.begin_s.searchsorted(times, side="right") - 1
