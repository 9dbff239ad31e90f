"""The shelf: a board is kept and taken as it was; what is no board is refused with its place."""

import json
import os
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path
from unittest import mock

from kivant.app.document.examples import load_example
from kivant.app.shelf import keep_board, kept_boards
from kivant.core.errors import KivantError
from kivant.files.board_file import MOST_BYTES, load_board

BOARD = load_example().board


class Shelf(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        patch = mock.patch.dict(os.environ, {"KIVANT_SHELF": str(self.folder)})
        patch.start()
        self.addCleanup(patch.stop)

    def test_a_board_comes_back_as_it_was(self):
        self.assertEqual(kept_boards(), {})
        odd = replace(BOARD, name="../a/b: \u201codd\u201d", x={"shelf": 3})
        for board in (BOARD, odd, replace(BOARD, max_pulse_hz=5000.0)):
            path = keep_board(board)
            self.assertEqual(path.parent, self.folder / "boards")
            self.assertEqual(load_board(path), board)
        self.assertEqual(len(kept_boards()), 2, "one of the same name is replaced")
        with self.assertRaisesRegex(KivantError, "has no name"):
            keep_board(replace(BOARD, name=" "))
        (self.folder / "boards").chmod(0o500)
        self.addCleanup((self.folder / "boards").chmod, 0o700)
        if os.geteuid():
            with self.assertRaisesRegex(KivantError, "cannot be kept"):
                keep_board(replace(BOARD, name="another"))

    def test_what_is_no_board_is_refused(self):
        path = self.folder / "board.json"
        whole = json.loads(keep_board(BOARD).read_text())
        for document, said in (
            ({}, "no board"),
            ({**whole, "version": 2}, "no board"),
            ({**whole, "board": []}, "object in braces"),
            ({**whole, "board": {"tick_hz": 5}}, "at least 1000"),
            ({**whole, "board": {"lines": ["P0", "P0"]}}, "appears twice"),
            ({**whole, "board": {"colour": 1}}, "unknown"),
        ):
            path.write_text(json.dumps(document))
            with self.assertRaisesRegex(KivantError, said):
                load_board(path)
        for data in (b"{", b"\xff\xfe", b" " * (MOST_BYTES + 1), b"[" * 5000):
            path.write_bytes(data)
            self.assertRaises(KivantError, load_board, path)
        self.assertRaises(KivantError, load_board, self.folder / "nothing.json")


if __name__ == "__main__":
    unittest.main()
