"""The strip below the lanes: the axis that holds each block back, and by which limit."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter

from kivant.core.motion.plan import Plan
from kivant.core.program.held_back import HeldBack
from kivant.desktop.kit import figures
from kivant.desktop.kit.chart import Scale
from kivant.desktop.kit.theme import font
from kivant.desktop.state.session import Session

_HEIGHT = 15.0
_NARROWEST = 3.0  # pixels
_MOST = 600  # stretches that are painted


def paint_holders(painter: QPainter, session: Session, plan: Plan, scale: Scale, top: float) -> Iterator[None]:
    """Paint a stretch for each block in the hue of its axis, with the axis's letter and the limit's name."""
    blocks, of = plan.blocks, plan.blocks.listed.places.of
    first = int(np.searchsorted(blocks.end_s, scale.low, "right"))
    last = int(np.searchsorted(blocks.begin_s, scale.high, "left"))
    names, painted, reached = figures.letters(plan.machine), 0, -1.0
    painter.setFont(font("small"))
    for row in range(first, last):
        one = session.holding.of(of[row])
        if one is None or one.limit is None:
            continue
        ends = blocks.begin_s[row], blocks.end_s[row]
        left, right = (scale.at(min(max(float(t), scale.low), scale.high)) for t in ends)
        if right - left < _NARROWEST and left < reached + _NARROWEST:
            continue
        reached = right
        _paint(painter, session, one, names[one.axis], QRectF(left, top, max(right - left - 1, 1.0), _HEIGHT))
        painted += 1
        if painted > _MOST:
            return
        if painted % 32 == 0:
            yield


def _paint(painter: QPainter, session: Session, one: HeldBack, letter: str, box: QRectF) -> None:
    theme = session.theme
    hue = theme.axis(one.axis)
    painter.fillRect(box, theme.tint(hue, 0.28))
    text = f"{letter} {one.limit}"
    if painter.fontMetrics().horizontalAdvance(text) > box.width() - 4:
        text = letter
    if painter.fontMetrics().horizontalAdvance(text) <= box.width() - 2:
        painter.setPen(theme.color("ink"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
