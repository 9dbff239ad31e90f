"""Whole turns: axes that turn come to places of the tool from where they are."""

from __future__ import annotations

import math
import unittest
from decimal import Decimal
from fractions import Fraction

import numpy as np
from msgspec.structs import replace

from kivant.core.machine import Block, Machine, Move, Repeat, Spin
from kivant.core.motion.routine import commands
from kivant.core.plan import plan
from tests.core.motion.test_line_stops import ANYWHERE, to
from tests.core.test_geometry import column, tool

D = Decimal


def at(turn: float, reach: float, **more: bool) -> Move:
    """Return a move to the place of a turn and a reach."""
    angle = math.radians(turn)
    return to(round(reach * math.cos(angle), 6), round(reach * math.sin(angle), 6), **more)


def angles(built: Machine, *blocks: Block) -> list[float]:
    """Return where the table stands before, between and after the rows of some blocks, deg."""
    built = replace(built, routines=(replace(built.routines[0], blocks=blocks),))
    commanded = commands(built, built.routines[0])
    assert not commanded.unreachable
    return [float(commanded.positions(row)[0]) for row in range(len(commanded.places) + 1)]


class WholeTurns(unittest.TestCase):
    def test_places_are_come_to_from_where_the_table_is(self):
        spin = Spin(speeds={"Shoulder": D(90)}, turns=10.0)
        for limits, blocks, wanted in (
            (ANYWHERE, (at(170, 40), at(-170, 40), at(-20, 40)), (0, 170, 190, 340)),
            (ANYWHERE, (at(-170, 40), at(170, 40), Move(to={"Shoulder": D(170)}), at(180, 9)), (0, -170, -190, 170, 180)),
            (ANYWHERE, (spin, at(20, 40)), (0, 3600, 3620)),
            (ANYWHERE, (at(180, 40),), (0, 180)),  # either way is as far
            (ANYWHERE, (at(90, 40), at(-90, 40), at(90, 40)), (0, 90, -90, 90)),
            ({"min": D(-170), "max": D(185)}, (at(170, 40), at(-170, 40), at(-178, 40)), (0, 170, -170, 182)),
            ({"min": D(-30), "max": D(400)}, (at(170, 40), at(-170, 40), at(-20, 40), at(50, 40)), (0, 170, 190, 340, 50)),
            ({**ANYWHERE, "wrap": "positive"}, (at(170, 40), at(160, 40), at(-170, 40)), (0, 170, 520, 550)),
            ({**ANYWHERE, "wrap": "shortest"}, (at(170, 40), at(-170, 40)), (0, 170, 190)),
        ):  # fmt: skip
            moves = [replace(block, straight=None) if isinstance(block, Move) else block for block in blocks]
            with self.subTest(limits=limits, blocks=len(blocks)):
                np.testing.assert_allclose(angles(column(**limits), *moves), wanted, atol=1e-4)

    def test_round_and_round_with_moves_with_lines_and_with_both_it_is_the_same(self):
        square = [at(turn, 40) for turn in (90, 180, 270, 360)]
        for straight in ((None,) * 4, (True,) * 4, (True, None) * 2, (None, True) * 2):
            own = tuple(replace(block, straight=way) for block, way in zip(square, straight, strict=True))
            built = column(**ANYWHERE)
            blocks = (Move(to={"Reach": D(40)}), Repeat(times=3, blocks=own))
            with self.subTest(straight=straight):
                found = angles(built, *blocks)
                np.testing.assert_allclose(found[1:], np.arange(13) * 90.0, atol=1e-4)

    def test_after_a_line_across_the_centre_an_axis_that_wraps_goes_on_from_there(self):
        random = np.random.default_rng(4)
        for case in range(12):
            wrap = (None, "shortest", "positive", "negative")[case % 4]
            built = column(**ANYWHERE, wrap=wrap)
            turns = random.integers(-180, 180, 3).tolist()
            blocks: list[Move] = []
            for turn in turns:  # there as axes go, and straight through the centre
                blocks += [replace(at(turn, 30), straight=None), at(turn + 180, float(random.integers(20, 40)))]
            begin = (Move(to={"Reach": D(30)}), *blocks)
            found = angles(built, *begin)[1:]
            with self.subTest(case=case):
                for k, (block, before, after) in enumerate(zip(blocks, found, found[1:], strict=False)):
                    way = after - before
                    if block.straight or wrap in (None, "shortest"):
                        self.assertLessEqual(abs(way), 180.01)
                    elif wrap == "positive":
                        self.assertTrue(-1e-3 < way < 360.01, (k, way))
                    else:
                        self.assertTrue(-360.01 < way < 1e-3, (k, way))
                made = plan(replace(built, routines=(replace(built.routines[0], blocks=begin),)))
                end = [float(axis.final_steps / Fraction(axis.steps_per_unit)) for axis in made.axes]
                x, y = (float(blocks[-1].tool[name]) for name in "xy")  # type: ignore[index]
                np.testing.assert_allclose(tool(built).place(end)[:2], (x, y), atol=0.5)


if __name__ == "__main__":
    unittest.main()
