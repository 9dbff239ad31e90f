"""The plan is written to a file from the window: the same bytes as by the command, cancelled or refused in words."""

from unittest import mock

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog, QMessageBox

from kivant.app.document.document import Document
from kivant.app.document.examples import SEEDLING_SETTER, load_example
from kivant.app.export import export
from kivant.desktop.frame.questions import LEVELS, PLACES, STEPS
from tests.desktop.base import WindowTest
from tests.machines import machine, move, screw_axis

CTRL = Qt.KeyboardModifier.ControlModifier


class Export(WindowTest):
    def chosen(self, window, name, kind, answer=QMessageBox.StandardButton.Cancel):
        """Export, with a name and a kind of file chosen in the dialog."""
        with (
            mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(name), kind)) as asked,
            mock.patch.object(QMessageBox, "question", return_value=answer),
        ):
            window.actions_by_name["export"].trigger()
        self.wait(lambda: window.session.bench.exporting.path is None)
        return asked.call_args.args

    def test_every_kind_of_file_as_the_command_writes_it(self):
        window = self.open(Document(load_example(SEEDLING_SETTER)))
        self.settle(window)
        plan, yes = window.session.planning.plan, QMessageBox.StandardButton.Yes
        assert plan is not None
        for name, kind, written, places in (
            ("a.csv", STEPS, "a.csv", False), ("b", LEVELS, "b.vcd", False), ("c.csv", PLACES, "c.csv", True),
            ("b", LEVELS, "b.vcd", False),
        ):  # fmt: skip
            arguments = self.chosen(window, self.folder / name, kind, yes)
            self.assertIn(f"Written to {self.folder / written}: ", window.notice.text.text())
            export(plan, self.folder / f"own{written}", replace=True, geometry=places)
            self.assertEqual((self.folder / written).read_bytes(), (self.folder / f"own{written}").read_bytes())
        self.assertEqual(arguments[2:], (f"{plan.routine.name}.csv", ";;".join((STEPS, LEVELS, PLACES))))
        window.show_station("routine")
        page, before = window.page, window.session.document.machine
        page.program.choose([(0,)])
        page.list.setFocus()
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=("", "")) as asked:
            QTest.keyClick(page.list, Qt.Key.Key_E, CTRL | Qt.KeyboardModifier.ShiftModifier)
            self.assertEqual((asked.call_count, window.session.document.machine), (1, before))
            QTest.keyClick(page.list, Qt.Key.Key_E, CTRL)  # in the list, that switches a block off
            self.assertEqual((asked.call_count, page.program.blocks[0].off), (1, True))

    def test_what_cannot_be_written_says_why_and_changes_nothing(self):
        window = self.open(Document(machine(screw_axis(), blocks=(move(to={"Lift": "5"}),))))
        self.settle(window)
        (self.folder / "old.csv").write_text("old")
        (self.folder / "dir.csv").mkdir()
        for name, words in (
            (self.folder / "none" / "a.csv", "Its folder does not exist"), (self.folder / "dir.csv", "This is a folder"),
            ("", "^$"), (self.folder / "old", "^$"),
        ):  # fmt: skip
            window.notice.text.setText("")
            self.chosen(window, name, STEPS)
            self.assertRegex(window.notice.text.text(), words)
        self.assertEqual((self.folder / "old.csv").read_text(), "old")
        window.session.choice.choose_routine(None)
        self.settle(window)
        window.export()
        self.assertIn("Nothing moves", window.notice.text.text())

    def test_a_long_one_shows_how_far_it_is_and_is_cancelled(self):
        blocks = tuple(move(to={"Lift": str(60 + 50 * (k % 2))}) for k in range(2000))
        window = self.open(Document(machine(screw_axis(), blocks=blocks)))
        self.settle(window)
        before, name = set(self.folder.iterdir()), self.folder / "long.csv"
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(name), STEPS)):
            window.export()
        exporting, slip = window.session.bench.exporting, window.export_slip
        self.wait(lambda: slip.isVisible() and exporting.share > 0.002)
        self.assertRegex(slip.text.text, r"Writing long.csv: \d+ %")
        window.export()
        self.assertIn("Another file is being written", window.notice.text.text())
        window.close()
        self.assertTrue(window.isVisible())
        self.assertIn("long.csv is being written", window.notice.text.text())
        slip.button.click()
        self.assertFalse(slip.isVisible())
        self.wait(lambda: set(self.folder.iterdir()) == before)
