"""The shelf: a board is kept and taken as it was; what is no board is refused with its place."""

import json
import os
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from msgspec.structs import replace

from kivant.app.document.examples import load_example
from kivant.app.shelf import keep, kept
from kivant.core.errors import KivantError
from kivant.core.machine import Board
from kivant.core.motor.generic import generic_motors
from kivant.core.motor.nameplate import nameplate
from kivant.files.part_file import BOARD_FILE, MOST_BYTES, MOTOR_FILE

BOARD = load_example().board


def kept_as(board: Board) -> Path:
    return keep(BOARD_FILE, board, board.name)


class Shelf(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        patch = mock.patch.dict(os.environ, {"KIVANT_SHELF": str(self.folder)})
        patch.start()
        self.addCleanup(patch.stop)

    def test_a_board_comes_back_as_it_was(self):
        self.assertEqual(kept(BOARD_FILE), {})
        odd = replace(BOARD, name="../a/b: \u201codd\u201d", x={"shelf": 3})
        for board in (BOARD, odd, replace(BOARD, max_pulse_hz=5000.0)):
            path = kept_as(board)
            self.assertEqual(path.parent, self.folder / "boards")
            self.assertEqual(BOARD_FILE.load(path), board)
        self.assertEqual(len(kept(BOARD_FILE)), 2, "one of the same name is replaced")
        with self.assertRaisesRegex(KivantError, "has no name"):
            kept_as(replace(BOARD, name=" "))
        (self.folder / "boards").chmod(0o500)
        self.addCleanup((self.folder / "boards").chmod, 0o700)
        if os.geteuid():
            with self.assertRaisesRegex(KivantError, "cannot be kept"):
                kept_as(replace(BOARD, name="another"))

    def test_what_is_no_board_is_refused(self):
        path = self.folder / "board.json"
        whole = json.loads(kept_as(BOARD).read_text())
        for document, said in (
            ({}, "not a board"),
            ({**whole, "version": 2}, "not a board"),
            ({**whole, "board": []}, "object in braces"),
            ({**whole, "board": {"tick_hz": 5}}, "at least 1000"),
            ({**whole, "board": {"lines": ["P0", "P0"]}}, "appears twice"),
            ({**whole, "board": {"colour": 1}}, "unknown"),
        ):
            path.write_text(json.dumps(document))
            with self.assertRaisesRegex(KivantError, said):
                BOARD_FILE.load(path)
        for data in (b"{", b"\xff\xfe", b" " * (MOST_BYTES + 1), b"[" * 5000):
            path.write_bytes(data)
            self.assertRaises(KivantError, BOARD_FILE.load, path)
        self.assertRaises(KivantError, BOARD_FILE.load, self.folder / "nothing.json")


if __name__ == "__main__":
    unittest.main()

    def test_motors_are_kept_and_those_of_usual_sizes_are_whole(self):
        wheel = load_example().axes[0].motor
        motor = replace(wheel, torque_points=((0.0, 0.01), (400.0, 0.002)))
        path = keep(MOTOR_FILE, motor, motor.label)
        self.assertEqual(
            (path.parent.name, MOTOR_FILE.load(path), list(kept(MOTOR_FILE))), ("motors", motor, [motor.label])
        )
        path.write_text(path.read_text().replace("400.0", "0.0"))
        with self.assertRaisesRegex(KivantError, "torque_points.1.*does not lie above"):
            MOTOR_FILE.load(path)
        with self.assertRaisesRegex(KivantError, "not a motor that Kivant kept"):
            MOTOR_FILE.load(kept_as(BOARD))
        for generic in generic_motors():
            plate = nameplate(generic)
            self.assertEqual(plate.estimates, (), "all that a data sheet tells")
            watts = 2 * plate.current_a**2 * plate.resistance_ohm
            self.assertTrue(0.5 < watts < 30, (generic.label, watts))
            self.assertTrue(0.3e-3 < plate.inductance_h / plate.resistance_ohm < 9e-3, generic.label)
