"""Kinds that exist in tests only: a stage and a block, added through the tables like any other."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from decimal import Decimal
from fractions import Fraction
from typing import Annotated, Literal
from unittest import mock

from kivant.core.fields import About, Count, Extra, Seconds
from kivant.core.motion.blocks import BLOCKS, Block, BlockKind, Rows
from kivant.core.motion.blocks.kind import Off, Own
from kivant.core.travel.stages import STAGES, Stage, StageKind
from kivant.core.travel.stages.kind import Reverses


class LabWorm(Stage, frozen=True, kw_only=True):
    """A worm and its wheel."""

    stage: Literal["test_worm"] = "test_worm"
    starts: Count
    teeth: Annotated[Count, About("Teeth of the wheel")]
    reverses: Reverses = None
    x: Extra = None


WORM = StageKind(
    type=LabWorm,
    name="worm",
    ratio=lambda stage: Fraction(stage.teeth, stage.starts),
    new=LabWorm(starts=1, teeth=30),
    fields=(("starts", "starts of the worm", "teeth"), ("teeth", "wheel teeth", "teeth")),
    words=lambda stage: f"{stage.starts} starts drive {stage.teeth} teeth",
)


class Home(Block, frozen=True, kw_only=True):
    """All axes rest, then go to 0 together."""

    do: Literal["test_home"] = "test_home"
    name: Own = None
    rest: Seconds
    off: Off = None
    x: Extra = None


def _lay(block: Home, rows: Rows) -> None:
    rows.rest(block.rest)
    rows.move(dict.fromkeys(rows.names, Decimal(0)), None, 1.0)


HOME = BlockKind(
    type=Home, title="Home", moves=True, lay=_lay, words=lambda block, _names: f"home after {block.rest:g} s",
    rows=lambda _block, _counter: 2,
)  # fmt: skip


@contextmanager
def added() -> Iterator[None]:
    """Have both kinds in the tables for a while."""
    with ExitStack() as stack:
        stack.enter_context(mock.patch.dict(STAGES, {"test_worm": WORM}))
        stack.enter_context(mock.patch.dict(BLOCKS, {"test_home": HOME}))
        yield
