"""Edits of programs: nothing is lost, and what is wrong is refused where it is."""

from __future__ import annotations

import unittest
from decimal import Decimal

import numpy as np
from msgspec.structs import replace

from kivant.core.errors import KivantError
from kivant.core.machine import Call, Each, Move, Note, Pause, Pose, Repeat, Routine
from kivant.core.machine.axes import delete_axis, rename_axis
from kivant.core.machine.edits import Edit
from kivant.core.motion.blocks import Block, walk
from kivant.core.path import Path
from kivant.core.program import editing
from kivant.core.program.editing import Blocks, Place, block_at, moved, outermost, with_inserted, without
from kivant.files.block_text import blocks_as_text, blocks_from_text
from kivant.files.json_text import ProjectError
from tests.machines import machine, move, screw_axis
from tests.programs import built


def named(blocks: Blocks) -> Blocks:
    """Return blocks of which each has a name of its own, so that it is known wherever it is."""
    count = iter(range(10**6))

    def own(blocks: Blocks) -> Blocks:
        return tuple(
            replace(
                block, name=f"b{next(count)}", **({"blocks": own(block.blocks)} if isinstance(block, Repeat) else {})
            )
            for block in blocks
        )

    return own(blocks)


def places(blocks: Blocks) -> list[Place]:
    return [tuple(p for p in path if isinstance(p, int)) for path, _block in walk(blocks, Path.of("blocks"))]


def names(blocks: Blocks) -> list[str | None]:
    return [block.name for _path, block in walk(blocks, Path())]


class Editing(unittest.TestCase):
    def test_blocks_that_are_moved_arrive_whole_and_in_their_order(self):
        random = np.random.default_rng(7)
        tried = 0
        for _ in range(300):
            blocks = named(built(random).routines[0].blocks)
            every = places(blocks)
            taken = [every[k] for k in random.choice(len(every), min(3, len(every)), replace=False)]
            to = every[random.integers(len(every))]
            if any(to[: len(place)] == place and len(to) > len(place) for place in outermost(taken)):
                with self.assertRaisesRegex(KivantError, "into itself"):
                    moved(blocks, taken, to)
                continue
            tried += 1
            carried = [block_at(blocks, place) for place in outermost(taken)]
            found, landing = moved(blocks, taken, to)
            self.assertEqual(sorted(map(str, names(found))), sorted(map(str, names(blocks))))
            self.assertEqual([block_at(found, (*landing[:-1], landing[-1] + k)) for k in range(len(carried))], carried)
            kept = [name for name in names(blocks) if name not in names(tuple(carried))]
            self.assertEqual([name for name in names(found) if name in kept], kept)
        self.assertGreater(tried, 100)

    def test_what_is_put_in_can_be_taken_out_again(self):
        random = np.random.default_rng(8)
        for _ in range(100):
            blocks = built(random).routines[0].blocks
            every = places(blocks)
            at = every[random.integers(len(every))]
            new = (Note(text="a"), Pause(seconds=1))
            added = with_inserted(blocks, at, new)
            self.assertEqual(without(added, [at, (*at[:-1], at[-1] + 1)]), blocks)
            text = blocks_as_text(blocks)
            self.assertEqual(blocks_from_text(text), blocks)

    def test_edits_are_checked_where_they_are(self):
        own = machine(screw_axis(), blocks=(move(to={"Lift": "1"}), Repeat(times=2, blocks=(Pause(seconds=1),))))
        wrapped = editing.wrap_blocks(0, [(0,), (1, 0)], 3)(own)
        self.assertEqual(
            wrapped.routines[0].blocks[0], Repeat(times=3, blocks=(move(to={"Lift": "1"}), Pause(seconds=1)))
        )
        self.assertEqual(editing.unwrap_blocks(0, (1,))(own).routines[0].blocks[1], Pause(seconds=1))
        cases: tuple[tuple[Edit, str], ...] = (
            (editing.insert_blocks(0, (1, 1), [Each()]), r"routines\[0\].blocks\[1\].blocks\[1\]: .*names no axis"),
            (editing.insert_blocks(0, (0, 0), [Note()]), "Nothing can be put into this block"),
            (editing.replace_block(0, (0,), Call(routine="test")), "call itself, without end"),
            (editing.replace_block(0, (0,), Move(pose="P")), "There is no pose “P”"),
            (
                editing.replace_block(0, (1,), Repeat(times=10**6, blocks=(Pause(seconds=0),) * 2)),
                "the limit is 1000000",
            ),
            (editing.rename_routine(0, " "), "needs a name"),
        )
        for edit, words in cases:
            with self.subTest(words), self.assertRaisesRegex(KivantError, words):
                edit(own)

    def test_names_are_changed_wherever_they_stand(self):
        inside: tuple[Block, ...] = (Call(routine="sub"), move(to={"Lift": "1"}), Each(by={"Lift": Decimal(1)}))
        own = machine(screw_axis(), screw_axis("B", 4), blocks=(Repeat(times=2, blocks=inside), Move(pose="P")))
        sub = Routine(name="sub", blocks=(move(to={"B": "2"}),))
        own = replace(own, routines=(*own.routines, sub), poses=(Pose(name="P", at={"Lift": Decimal(3)}),))
        renamed = editing.rename_routine(1, "other")(rename_axis(0, "Up")(own))
        self.assertEqual(
            renamed.routines[0].blocks[0],
            Repeat(times=2, blocks=(Call(routine="other"), move(to={"Up": "1"}), Each(by={"Up": Decimal(1)}))),
        )
        self.assertEqual(renamed.poses, (Pose(name="P", at={"Up": Decimal(3)}),))
        with self.assertRaisesRegex(KivantError, "“sub” is called by “test”"):
            editing.delete_routine(1)(own)
        gone = delete_axis(0)(own)  # with all that is left without a target
        self.assertEqual(
            (gone.poses, gone.routines[0].blocks), (None, (Repeat(times=2, blocks=(Call(routine="sub"),)),))
        )

    def test_text_that_is_no_block_is_refused(self):
        cases = (
            ("Wheel to 90", "JSON"),
            ('{"a": 1}', "holds no blocks"),
            ('[{"do": "dance"}]', "Expected 'move'"),
            ('[{"do": "pause", "seconds": -1}]', "at least 0"),
            ('{"do": "pause"}', "missing"),
        )
        for text, words in cases:
            with self.subTest(text), self.assertRaisesRegex(ProjectError, words):
                blocks_from_text(text)
        self.assertEqual(blocks_from_text('{"do": "pause", "seconds": 2}'), (Pause(seconds=2),))
