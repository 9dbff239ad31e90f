"""The open machine: undo, redo, saving."""

import tempfile
import unittest
from pathlib import Path

from msgspec.structs import replace

from kivant.app.document.document import Document, SaveError
from tests.machines import coil_axis, machine, move, screw_axis

BUILT = machine(screw_axis(), coil_axis(first_line=4), blocks=(move(to={"Lift": "3"}),))


class Histories(unittest.TestCase):
    def test_all_edits_can_be_undone_and_done_again(self):
        document = Document(BUILT)
        edits = [replace(BUILT, name=f"m{k}") for k in range(3000)]
        for made in edits:
            document.edit(made, made.name)
        for made in [*reversed(edits[:-1]), BUILT]:
            document.undo()
            self.assertIs(document.machine, made)
        self.assertIsNone(document.undo_name)
        for made in edits:
            document.redo()
            self.assertIs(document.machine, made)

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

    def test_a_drag_is_one_edit_and_never_part_of_what_it_did_not_begin(self):
        document = Document(BUILT)
        names = [replace(BUILT, name=f"m{k}") for k in range(6)]
        for k, merge in ((0, False), (1, True), (2, True)):
            document.edit(names[k], "drag", merge=merge)
        document.undo()
        self.assertEqual(document.machine, BUILT)
        document.edit(names[3], "drag", merge=True)
        document.edit(names[4], "another", merge=True)
        document.undo()
        self.assertEqual(document.machine, names[3])
        document.undo()
        self.assertEqual(document.machine, BUILT)

    def test_a_save_that_fails_says_why_and_changes_nothing(self):
        document = Document(BUILT)
        for path, words in ((None, "has no file yet"), (Path("/proc/none/a.kivant"), "cannot be written")):
            with self.assertRaisesRegex(SaveError, words):
                document.save(path)
        self.assertIsNone(document.path)
