"""Blocks in sentences, and sentences read as blocks."""

from __future__ import annotations

import unittest
from decimal import Decimal

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from kivant.core.errors import ValueTextError
from kivant.core.machine import Call, Each, Move, Note, Pause, Pose, Repeat, Routine, Spin
from kivant.core.motion.blocks import walk
from kivant.core.path import Path
from kivant.core.program.reading import read_line, read_positions
from kivant.core.program.sentences import positions_words, sentence, units_of
from tests.machines import coil_axis, machine, screw_axis
from tests.programs import built

BENCH = replace(
    machine(coil_axis("Wheel"), screw_axis("Lift", 4), screw_axis("Lift and wheel", 8)),
    poses=(Pose(name="Pick", at={"Lift": Decimal(3)}),), routines=(Routine(name="Raise and turn"),),
)  # fmt: skip
D = Decimal
ODD = (
    "to",
    "by",
    "and",
    "at",
    "spin",
    "pause",
    "Lift and wheel",
    "Lift",
    "to pose",
    "x",
    "each by itself",
    "5 mm",
    "repeat 3",
)


class Sentences(unittest.TestCase):
    def test_what_is_said_is_read_as_the_block_that_it_was(self):
        random = np.random.default_rng(5)
        for case in range(150):
            own = built(random)
            for _path, block in walk(own.routines[0].blocks, Path()):
                with self.subTest(case=case, block=block):
                    text = sentence(block, units_of(own))
                    self.assertEqual(read_line(own, text, block), block)

    def test_what_people_type(self):
        cases = (
            ("Wheel to 0.25rev", Move(to={"Wheel": D(90)})),
            ("  Wheel to 90 and Lift by -0.5in together ", Move(to={"Wheel": D(90)}, by={"Lift": D("-12.7")})),
            ("Wheel to 2rev + 15deg, at 50% speed", Move(to={"Wheel": D(735)}, speed_factor=0.5)),
            ("Lift and wheel to 2 and Lift to 1 mm", Move(to={"Lift and wheel": D(2), "Lift": D(1)})),
            ("Wheel to 1 deg and Lift to 2, each by itself", Each(to={"Wheel": D(1), "Lift": D(2)})),
            ("to pose Pick at 25 % speed", Move(pose="Pick", speed_factor=0.25)),
            ("spin Wheel at 10rpm and Lift at -5 for 2min", Spin(speeds={"Wheel": D(60), "Lift": D(-5)}, seconds=120)),
            ("spin Wheel at 60 for 2.5 turns", Spin(speeds={"Wheel": D(60)}, turns=2.5)),
            ("spin Lift at 5 mm/s over 1in", Spin(speeds={"Lift": D(5)}, distance=25.4)),
            ("pause 20ms", Pause(seconds=0.02)),
            ("repeat 3 times", Repeat(times=3)),
            ("tool to x 80 and y -6", Move(tool={"x": D(80), "y": D(-6)})),
            (
                "tool straight to x 1in, y 2 and z 3, within 0.1 mm, at 50 % speed",
                Move(tool={"x": D("25.4"), "y": D(2), "z": D(3)}, straight=True, tolerance=0.1, speed_factor=0.5),
            ),
            ("call Raise and turn", Call(routine="Raise and turn")),
            ("note Wheel to 90 deg", Note(text="Wheel to 90 deg")),
            ("note", Note()),
        )
        for text, block in cases:
            with self.subTest(text):
                self.assertEqual(read_line(BENCH, text), block)

    def test_positions_are_read_as_they_are_written(self):
        positions = {"Wheel": D("-0.125"), "Lift": D(40)}
        text = positions_words(positions, units_of(BENCH))
        self.assertEqual((text, read_positions(BENCH, text)), ("Wheel at -0.125 deg and Lift at 40 mm", positions))
        self.assertEqual(read_positions(BENCH, "  "), {})
        with self.assertRaisesRegex(ValueTextError, "“10 deg” does not say “at” behind Wheel. .* “Wheel at 10 deg and"):
            read_positions(BENCH, "Wheel 10 deg")

    def test_what_is_no_block_is_refused_with_what_was_expected(self):
        cases = (
            ("", "does not begin|names no axis"),
            ("Whel to 90", "does not begin with the name of an axis"),
            ("Wheel 90", "does not say “to” or “by” behind Wheel"),
            ("Wheel to ninety", "is not a position"),
            ("Wheel to 90 mm", "is not a unit of a position"),
            ("Wheel to 1 and Wheel to 2", "names Wheel twice"),
            ("Wheel to 1, at 0 % speed", "not a share of the speed"),
            ("to pose Gone", "is no pose"),
            ("spin Wheel at 60", "does not say for how long"),
            ("spin Wheel at 60 for 3 parsecs", "is not a unit of a time"),
            ("pause -1", "a negative time"),
            ("repeat 0", "not between 1 and"),
            ("repeat 1e12 times", "not between 1 and"),
            ("repeat 2.5", "not a whole number"),
            ("call Nobody", "is no routine"),
            ("tool to 80 60", "is no coordinate with a number"),
            ("tool straight to x far", "is not an x"),
        )
        for text, words in cases:
            with self.subTest(text), self.assertRaisesRegex(ValueTextError, words):
                read_line(BENCH, text)

    def test_a_line_keeps_what_it_does_not_tell(self):
        inside = (Pause(seconds=1),)
        before = Repeat(times=2, blocks=inside, name="Rows", off=True)
        self.assertEqual(read_line(BENCH, "repeat 4 times", before), replace(before, times=4))
        self.assertEqual(read_line(BENCH, "pause 1 s", before), Pause(seconds=1, name="Rows", off=True))

    @settings(max_examples=150)
    @given(st.lists(st.sampled_from(ODD), min_size=1, max_size=3, unique=True), st.data())
    def test_axes_may_be_called_like_words_of_the_grammar(self, names, data):
        own = machine(*(screw_axis(name, 4 * k) for k, name in enumerate(names)))
        numbers = st.decimals(-999, 999, places=2, allow_nan=False)
        targets = {name: data.draw(numbers) for name in data.draw(st.permutations(names))}
        split = data.draw(st.integers(0, len(targets)))
        to, by = dict([*targets.items()][:split]), dict([*targets.items()][split:])
        factor = data.draw(st.sampled_from((None, 0.5, 0.333333)))
        for kind in (Move, Each):
            block = kind(to=to or None, by=by or None, speed_factor=factor)
            self.assertEqual(read_line(own, sentence(block, units_of(own))), block)
        spin = Spin(speeds=targets, seconds=data.draw(st.sampled_from((0.5, 2.0))), speed_factor=factor)
        self.assertEqual(read_line(own, sentence(spin, units_of(own))), spin)
