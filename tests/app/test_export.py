"""Exports: whole or not at all."""

import tempfile
import unittest
from pathlib import Path
from typing import cast

import numpy as np
from msgspec.structs import replace

from kivant.app.export import ExportError, estimated_bytes, export
from kivant.core.motion.exact import Exact
from kivant.core.motion.train import Ends, StepTrain
from kivant.core.plan import plan
from tests.machines import coil_axis, machine, move, screw_axis

BUILT = machine(screw_axis(), coil_axis(first_line=4), blocks=(move(to={"Lift": "3"}),))


class Exports(unittest.TestCase):
    def test_what_cannot_be_written_is_refused_and_leaves_nothing(self):
        made = plan(BUILT)
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            (folder / "old.csv").write_text("old")
            (folder / "dir.csv").mkdir()
            for path, words in (
                ("a.txt", "saved as .csv or .vcd"), ("a", "a file without an extension"), ("old.csv", "already exists"),
                ("none/a.csv", "folder does not exist"),
            ):  # fmt: skip
                with self.assertRaisesRegex(ExportError, words):
                    export(made, folder / path)
            with self.assertRaisesRegex(ExportError, "is a folder"):
                export(made, folder / "dir.csv", replace=True)
            endless = replace(made, axes=(replace(made.axes[0], train=cast(StepTrain, Endless())),))
            with self.assertRaisesRegex(ExportError, r"would be about .* GB; .* GB are free"):
                export(endless, folder / "b.csv")
            self.assertEqual({p.name for p in folder.iterdir()}, {"old.csv", "dir.csv"})
            for suffix in (".csv", ".vcd"):
                export(made, folder / f"old{suffix}", replace=True)
                size = (folder / f"old{suffix}").stat().st_size
                self.assertAlmostEqual(estimated_bytes(made, suffix) / size, 1.0, delta=0.35)


class Endless:
    """Stands for a train of more steps than any disk holds."""

    count, ends = 10**16, Ends(Exact(np.array([0, 10**16]), np.ones(2, np.int64)))
