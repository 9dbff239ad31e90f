"""The strip below the lanes: the axis that holds each block back, and by which limit."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from PySide6.QtCore import QRectF
from PySide6.QtGui import QPainter

from kivant.core.motion.plan import Plan
from kivant.core.motion.segment import Reals, Wholes
from kivant.desktop.kit import figures
from kivant.desktop.kit.chart import Scale
from kivant.desktop.kit.fitting import write_fitting
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session

_HEIGHT = 15.0
_TINT = 0.28
_NARROWEST, _LETTER = 5.0, 9.0  # pixels: a stretch, and one that holds a letter


def paint_holders(painter: QPainter, session: Session, plan: Plan, scale: Scale, top: float) -> Iterator[None]:
    """Paint a stretch for each block in the hue of its axis, with the axis's letter and the limit's name."""
    blocks, of = plan.blocks, plan.blocks.listed.places.of
    names = figures.letters(plan.machine)
    painter.setFont(font("small"))
    shown = _shown(blocks.begin_s, blocks.end_s, scale)
    ends = np.clip(np.stack((blocks.begin_s[shown], blocks.end_s[shown])), scale.low, scale.high)
    left, right = scale.begin + (ends - scale.low) * scale.per_unit
    theme = session.theme
    tints = {k: theme.tint(theme.axis(k), _TINT) for k in range(len(plan.axes))}
    tool = theme.tint(theme.color("muted"), _TINT)
    for count, row in enumerate(shown.tolist()):
        one = session.holding.of(of[row])
        if one is not None and one.limit is not None:
            box = QRectF(left[count], top, max(right[count] - left[count] - 1, 1.0), _HEIGHT)
            painter.fillRect(box, tool if one.axis is None else tints[one.axis])
            if box.width() >= _LETTER:
                letter = "tool" if one.axis is None else names[one.axis]
                write_fitting(painter, theme.color("ink"), box, (f"{letter} {one.limit}", letter), 2)
        if count % 32 == 31:
            yield


def _shown(begin_s: Reals, end_s: Reals, scale: Scale) -> Wholes:
    """Return the rows that are seen along a scale: of those that no eye can tell apart, the first."""
    if not scale.per_unit:
        return np.zeros(0, np.int64)
    edges = np.arange(scale.low, scale.high, _NARROWEST / scale.per_unit)
    # A row as wide as a column reaches over an edge; of those that begin within one, the first.
    rows = np.unique(np.concatenate((np.searchsorted(begin_s, edges, "right") - 1, np.searchsorted(begin_s, edges))))
    rows = rows[(rows >= 0) & (rows < len(begin_s))]
    return np.asarray(rows[(end_s[rows] > scale.low) & (begin_s[rows] < scale.high)])
