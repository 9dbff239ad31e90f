"""The plates above the lanes: a slip for each block, those of repeats above what is inside of them."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter

from kivant.core.machine.parts import Machine
from kivant.core.motion.blocks import Block, block_kind
from kivant.core.motion.plan import Plan
from kivant.core.motion.segment import Reals, Wholes
from kivant.core.program.editing import Place
from kivant.core.program.sentences import sentence, units_of
from kivant.desktop.kit import figures
from kivant.desktop.kit.chart import Scale
from kivant.desktop.kit.fitting import NARROWEST, write_fitting
from kivant.desktop.kit.theme import Theme, font
from kivant.desktop.kit.words import block_labels

MOST_DEPTHS = 3
ROW = 21.0
"""Height of a row of plates, pixels."""
_NARROWEST = 5.0  # a block that is narrower is drawn with its neighbours, pixels


class Plate(NamedTuple):
    """A slip for the listed blocks from `first` to `last`."""

    box: QRectF
    first: int
    last: int


def place_of_entry(plan: Plan, entry: int) -> Place:
    """Return the place of a listed block."""
    return tuple(part for part in plan.blocks.listed.path(entry) if isinstance(part, int))


def rows_of(plan: Plan) -> int:
    """Return how many rows of plates there are: as deep as blocks lie, up to a few."""
    return min(plan.blocks.deepest + 1, MOST_DEPTHS)


def plates(plan: Plan, scale: Scale, *, unrolled: bool = False) -> list[Plate]:
    """Return the plates that are seen along a scale; blocks too narrow to be told apart share one.

    A repeat has one plate, and what is inside of it those of its first turn; `unrolled`, those of all turns.
    """
    listed, found = plan.blocks.listed, []
    for depth in range(rows_of(plan)):
        own = np.flatnonzero((listed.depth == depth) & (listed.end_s > listed.begin_s))
        begin_s, end_s = listed.begin_s[own], listed.end_s[own]
        if unrolled and depth:
            own, begin_s, end_s = _turns(plan, depth)
        found += _row(own, begin_s, end_s, scale, depth)
    return found


def _turns(plan: Plan, depth: int) -> tuple[Wholes, Reals, Reals]:
    """Return the listed block of each row of a depth, and when it begins and ends."""
    listed, blocks = plan.blocks.listed, plan.blocks
    of = np.frombuffer(listed.places.of, np.int32) if len(listed.places.of) else np.zeros(0, np.int32)
    index = np.minimum(np.searchsorted(listed.entries, of), len(listed.entries) - 1)
    rows = np.flatnonzero(
        (listed.entries[index] == of) & (listed.depth[index] == depth) & (blocks.end_s > blocks.begin_s)
    )
    return index[rows], blocks.begin_s[rows], blocks.end_s[rows]


def _row(entries: Wholes, begin_s: Reals, end_s: Reals, scale: Scale, depth: int) -> list[Plate]:
    seen = slice(int(np.searchsorted(end_s, scale.low, "right")), int(np.searchsorted(begin_s, scale.high, "left")))
    entries, begin_s, end_s = entries[seen], begin_s[seen], end_s[seen]
    if not len(entries):
        return []
    left, right = (
        scale.begin + (np.clip(t, scale.low, scale.high) - scale.low) * scale.per_unit for t in (begin_s, end_s)
    )
    narrow, top = right - left < _NARROWEST, 2 + depth * ROW
    apart = np.append(True, left[1:] - right[:-1] > _NARROWEST)  # time of something else lies between
    firsts = np.flatnonzero(~narrow | np.append(True, ~narrow[:-1]) | apart)
    lasts = np.append(firsts[1:], len(entries)) - 1
    return [
        Plate(QRectF(left[a] + 1, top, max(right[b] - left[a] - 2, 1.0), ROW - 4), int(entries[a]), int(entries[b]))
        for a, b in zip(firsts.tolist(), lasts.tolist(), strict=True)
    ]


def paint_plates(painter: QPainter, theme: Theme, plan: Plan, shown: list[Plate], chosen: set[Place]) -> Iterator[None]:
    """Paint plates; those of chosen blocks stand out."""
    for count, plate in enumerate(shown):
        alone = plate.first == plate.last
        block = plan.blocks.listed.block(plate.first)
        picked = alone and bool(chosen) and place_of_entry(plan, plate.first) in chosen
        painter.setPen(theme.pen(theme.color("accent" if picked else "edge"), 2 if picked else 1))
        hollow = alone and block.do == "pause"
        painter.setBrush(Qt.BrushStyle.NoBrush if hollow and not picked else theme.color("sheet"))
        painter.drawRoundedRect(plate.box, 4, 4) if plate.box.width() > 8 else painter.drawRect(plate.box)
        if plate.box.width() >= NARROWEST:
            painter.setFont(font("small"))
            many = f"{figures.grouped(plate.last - plate.first + 1)} blocks"
            write_fitting(painter, theme.color("ink"), plate.box, _words(plan.machine, block) if alone else [many], 8)
        if count % 32 == 0:
            yield


def _words(machine: Machine, block: Block) -> list[str]:
    """Return what stands on the plate of a block, in ever fewer words."""
    said = sentence(block, units_of(machine)).removeprefix("repeat ").removeprefix("call ").removesuffix(" together")
    said = figures.signed(said)
    if block.name is not None:
        return [f"{block.name}, {said}" if block_kind(block).filled else block.name]
    return [said, *block_labels(machine, block)]
