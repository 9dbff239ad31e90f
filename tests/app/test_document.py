"""The open machine: undo, redo, saving; composing a move; planning in the background."""

import tempfile
import threading
import unittest
from dataclasses import replace
from decimal import Decimal
from fractions import Fraction
from pathlib import Path

from kivant.app.composing import as_decimal, free_name, own_move, parse_targets, with_routine
from kivant.app.document import Document, SaveError
from kivant.app.export import ExportError, estimated_bytes, export
from kivant.app.planner import Planner
from kivant.core.errors import ValueTextError
from kivant.core.machine import Routine
from kivant.core.plan import plan
from kivant.core.travel import convert, parse_position
from tests.machines import coil_axis, limits, machine, move, screw_axis

BUILT = machine(screw_axis(), coil_axis(first_line=4), blocks=(move(to={"Lift": "3"}),))


class Histories(unittest.TestCase):
    def test_undo_is_going_back_and_saving_is_remembered(self):
        document = Document(BUILT)
        edits = [replace(BUILT, name=f"m{k}") for k in range(3)]
        for k, made in enumerate(edits):
            document.edit(made, f"name m{k}")
        self.assertEqual((document.undo_name, document.redo_name, document.modified), ("name m2", None, True))
        document.undo()
        document.undo()
        self.assertEqual((document.machine, document.undo_name, document.redo_name), (edits[0], "name m0", "name m1"))
        document.redo()
        with tempfile.TemporaryDirectory() as folder:
            document.save(Path(folder) / "a.kivant")
            self.assertFalse(document.modified)
            self.assertEqual(Document.open(Path(folder) / "a.kivant").machine.name, "m1")
            document.undo()
            self.assertTrue(document.modified)
            document.redo()
            self.assertFalse(document.modified)
            document.undo()
            document.edit(edits[2], "else")
            self.assertIsNone(document.redo_name)

    def test_a_save_that_fails_says_why_and_changes_nothing(self):
        document = Document(BUILT)
        for path, words in ((None, "has no file yet"), (Path("/proc/none/a.kivant"), "cannot be written")):
            with self.assertRaisesRegex(SaveError, words):
                document.save(path)
        self.assertIsNone(document.path)


class Composing(unittest.TestCase):
    def test_typed_targets_become_one_coordinated_move(self):
        targets = parse_targets(BUILT, {"Lift": "1in", "Disc": "", "Gone": "5"})
        self.assertEqual(targets, {"Lift": Decimal("25.4")})
        with self.assertRaises(ValueTextError):
            parse_targets(BUILT, {"Disc": "much"})
        routine = own_move(targets, {"Disc": Decimal(9)})
        made = plan(BUILT, routine)
        self.assertEqual((made.axis("Lift").final_steps, made.axis("Disc").start_steps), (5080, 10))
        self.assertEqual(own_move({}, {}).blocks, ())
        self.assertEqual(free_name(with_routine(BUILT, replace(routine, name="a")), "a"), "a 2")

    def test_steps_that_are_no_decimal_still_reach_their_step(self):
        """A step of 0.9 degrees is one; a step of a geared axis is not, and 30 digits are enough for it."""
        axis = replace(coil_axis(), motor=replace(coil_axis().motor, full_steps_per_rev=48))
        for steps in (1, 7, 12345, -99999):
            position = Fraction(as_decimal(parse_position(axis, f"{steps}steps")))
            self.assertEqual(convert(axis, position).steps, steps)


class Planning(unittest.TestCase):
    def test_only_the_newest_wish_is_delivered(self):
        """Many wishes in a row, the first a long one: it is given up, and the last one comes."""
        arrived, last = [], threading.Event()

        def deliver(wish, result):
            arrived.append(wish.number)
            if wish.number == 40:
                self.assertEqual(result.axis("Lift").final_steps, 39 * 200)
                last.set()

        planner = Planner(deliver)
        self.addCleanup(planner.close)
        long = Routine(name="long", blocks=tuple(move(by={"Lift": "0.01"}) for _ in range(20_000)))
        planner.wish(BUILT, long)
        for k in range(1, 40):
            planner.wish(BUILT, Routine(name="short", blocks=(move(to={"Lift": str(k)}),)))
        self.assertTrue(last.wait(5))
        self.assertNotIn(1, arrived)
        self.assertEqual(arrived, sorted(arrived))

    def test_findings_of_a_machine_come_once_and_nothing_comes_while_another_hurries(self):
        told, arrived = [], threading.Event()
        short = screw_axis(limits=limits(max=Decimal(50)))
        outside = machine(short, blocks=(move(to={"Lift": "9999"}),))
        planner = Planner(lambda _wish, _result: arrived.set(), lambda _wish, found: told.append(found))
        self.addCleanup(planner.close)
        with planner.hurrying():
            planner.wish(outside, Routine(name="short", blocks=(move(to={"Lift": "1"}),)))
            self.assertFalse(arrived.wait(0.1))
        self.assertTrue(arrived.wait(5))
        arrived.clear()
        planner.wish(outside, Routine(name="other", blocks=(move(to={"Lift": "2"}),)))
        self.assertTrue(arrived.wait(5))
        self.assertEqual([[finding.place for finding in found] for found in told], [["routines[0].blocks[0].to.Lift"]])


class Exports(unittest.TestCase):
    def test_what_cannot_be_written_is_refused_and_leaves_nothing(self):
        made = plan(BUILT)
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            (folder / "old.csv").write_text("old")
            (folder / "dir.csv").mkdir()
            for path, words in (
                ("a.txt", "written as .csv or .vcd"), ("a", "a file without suffix"), ("old.csv", "there already"),
                ("none/a.csv", "folder does not exist"),
            ):  # fmt: skip
                with self.assertRaisesRegex(ExportError, words):
                    export(made, folder / path)
            with self.assertRaisesRegex(ExportError, "is a folder"):
                export(made, folder / "dir.csv", replace=True)
            endless = replace(made, axes=(replace(made.axes[0], train=Endless()),))
            with self.assertRaisesRegex(ExportError, r"would be about .* GB; .* GB are free"):
                export(endless, folder / "b.csv")
            self.assertEqual({p.name for p in folder.iterdir()}, {"old.csv", "dir.csv"})
            for suffix in (".csv", ".vcd"):
                export(made, folder / f"old{suffix}", replace=True)
                size = (folder / f"old{suffix}").stat().st_size
                self.assertAlmostEqual(estimated_bytes(made, suffix) / size, 1.0, delta=0.35)


class Endless:
    """Stands for a train of more steps than any disk holds."""

    count, end = 10**16, Fraction(10**16)
