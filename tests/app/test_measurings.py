"""Readings of axes outlive the window, and nothing of them that is damaged is believed."""

import json
import shutil
import tempfile
import unittest
from pathlib import Path

from kivant.app.document.document import Document
from kivant.app.document.examples import load_example
from kivant.app.measuring import Measuring
from kivant.app.workbench import Workbench
from kivant.core.errors import KivantError
from kivant.core.machine.edits import set_value
from kivant.core.path import axis_path
from kivant.files import project


class Kept(unittest.TestCase):
    def setUp(self) -> None:
        temporary = tempfile.TemporaryDirectory()
        self.addCleanup(temporary.cleanup)
        self.folder = Path(temporary.name)
        self.file = self.folder / "rig.kivant"
        project.save(load_example(), self.file)

    def bench(self, path: Path | None = None) -> Workbench:
        bench = Workbench(Document.open(path or self.file), folder=self.folder / "state")
        self.addCleanup(bench.close)
        return bench

    def measured(self) -> Measuring:
        bench = self.bench()
        axis, measuring = bench.machine.axes[0], bench.measurings.now
        for _ in range(3):
            measuring.take(axis, f"{float(measuring.next(axis).position) + 0.25}deg")
        bench.measurings.keep()
        bench.close()
        return measuring

    def test_they_are_there_when_the_machine_is_opened_again(self):
        before = self.measured()
        bench = self.bench()
        axis, again = bench.machine.axes[0], bench.measurings.now
        self.assertEqual((again.read, again.taken_with), (before.read, before.taken_with))
        self.assertEqual(again.next(axis), before.next(axis))
        self.assertEqual(self.bench(Path(shutil.copy(self.file, self.folder / "other.kivant"))).measurings.now.read, [])
        bench.edit(set_value(axis_path(0, "travel", 0, "driven"), 32), "teeth")
        with self.assertRaisesRegex(KivantError, "another chain"):
            again.take(bench.machine.axes[0], "1deg")
        again.begin_anew()
        bench.measurings.keep()
        bench.close()
        self.assertEqual(list((self.folder / "state" / "readings").iterdir()), [])

    def test_what_is_damaged_is_taken_for_missing(self):
        self.measured()
        (kept,) = (self.folder / "state" / "readings").iterdir()
        whole = json.loads(kept.read_text())
        self.assertEqual(kept.stat().st_mode & 0o077, 0)
        for damage in (
            {"read": [[1, 1, float("nan")]]}, {"read": [[1, 5, 2]]}, {"read": [[1]]}, {"read": 3}, {"before": None},
            {"taken_with": ["1/0", 0, 1]}, {"taken_with": 4},
        ):  # fmt: skip
            kept.write_text(json.dumps({"axes": {"Wheel": {**whole["axes"]["Wheel"], **damage}}}))
            self.assertEqual(self.bench().measurings.now.read, [], damage)
        for text in ("", "[]", '{"axes": 3}', '{"axes": {"Wheel": 1}}'):
            kept.write_text(text)
            self.assertEqual(self.bench().measurings.now.read, [], text)
