"""Files in the window: recovery, recent files, drops, another program's changes, two windows, the light."""

import threading
from unittest import mock

from msgspec.structs import replace
from PySide6.QtCore import QMimeData, QPointF, Qt, QTimer, QUrl
from PySide6.QtGui import QDropEvent, QShortcut
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel, QMessageBox
from tools.attack.editing import newest_kept, number_of, victim

from kivant.app.document.autosave import leftovers
from kivant.app.document.document import Document
from kivant.app.document.examples import FEEDER_CAROUSEL, load_example
from kivant.app.document.memory import Memory
from kivant.core.machine.edits import rename_machine
from kivant.desktop.frame.window import Window
from kivant.files import project
from tests.desktop.base import WindowTest


class Files(WindowTest):
    def saved(self, name: str = "feeder.kivant"):
        path = self.folder / name
        project.save(load_example(FEEDER_CAROUSEL), path)
        return path

    def test_unsaved_changes_are_recovered_after_a_kill(self):
        """They are kept while they are unsaved; after a death they open in a window of their own, still unsaved."""
        window = self.open()
        window.session.document.edit(replace(window.session.document.machine, name="Half done"), "name")
        window.keep_unsaved()
        self.wait(lambda: bool(list((self.folder / "state" / "unsaved").glob("*.kivant"))))
        second = self.open()
        self.assertEqual(second.recover(), 0, "who lives keeps its own")
        window.autosave.abandon()
        self.assertEqual(second.recover(), 1)
        found = second.others[0]
        self.addCleanup(self.shut, found)
        self.assertEqual((found.session.document.machine.name, found.session.document.modified), ("Half done", True))
        self.assertIn("ended unexpectedly", found.notice.text.text())
        self.assertTrue(found.save_to(self.folder / "kept.kivant"))
        self.assertEqual(project.load(self.folder / "kept.kivant").name, "Half done")

    def test_edits_are_kept_while_somebody_goes_on_editing(self):
        """Whoever edits ten times a second never pauses; what is kept follows, never put off by the next edit."""
        window, found = self.open(), set()
        for number in range(300):
            window.session.edit(rename_machine(f"Edit {number}"), "name")
            QTest.qWait(100)
            found.update(project.load(kept).name for kept in (self.folder / "state" / "unsaved").glob("*.kivant"))
            if len(found) >= 3:
                return
        self.fail(f"of 300 edits, only {found} were kept")

    def test_a_request_to_end_asks_nothing_and_loses_nothing(self):
        """As when the desktop's session ends: every window's unsaved changes are found at the next start."""
        window = self.open()
        window.new_window()
        for number, each in enumerate((window, *window.others)):
            each.session.edit(rename_machine(f"Machine {number}"), "name")
        window.give_way()
        self.addCleanup(self.shut, window.others[0])
        found = leftovers(self.folder / "state")
        self.assertEqual(sorted(leftover.machine.name for leftover in found), ["Machine 0", "Machine 1"])

    def test_that_changes_cannot_be_kept_is_told_once(self):
        window = self.open()
        with mock.patch("os.fsync", side_effect=OSError(28, "No space left on device")):
            for name in ("one", "two"):
                window.session.edit(rename_machine(name), "name")
                window.keep_unsaved()
                self.assertFalse(window.autosave.keep(window.session.document.machine, None).result())
                self.app.processEvents()
                self.assertEqual(window.notice.isVisible(), name == "one")
                window.notice.hide()
        self.assertIn("cannot be kept", window.notice.text.text())

    def test_what_a_window_has_kept_outlives_its_being_killed_amid_edits(self):
        def at_hand() -> int:
            return max(
                (number_of(project.load(file)) for file in (self.folder / "unsaved").glob("*.kivant")), default=0
            )

        for least in (1, 40):
            with victim(self.folder):
                self.wait(lambda least=least: at_hand() >= least)
            self.assertGreaterEqual(newest_kept(self.folder), least)

    def test_a_clean_end_leaves_nothing_unsaved(self):
        window = self.open()
        window.session.edit(rename_machine("Renamed"), "name")
        self.wait(lambda: bool(list((self.folder / "state" / "unsaved").glob("*.kivant"))))
        window.may_leave = lambda: True
        window.close()
        self.assertEqual(list((self.folder / "state" / "unsaved").iterdir()), [])
        self.assertEqual(leftovers(self.folder / "state"), [])

    def test_files_dropped_on_the_window_are_opened_or_explained(self):
        window = self.open()
        text = self.folder / "letter.txt"
        text.write_text("Dear all,")
        for path, opened in ((text, False), (self.folder, False), (self.saved(), True)):
            data = QMimeData()
            data.setUrls([QUrl.fromLocalFile(str(path))])
            at = QPointF(400, 300)
            window.dropEvent(
                QDropEvent(
                    at, Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
                )
            )
            self.assertEqual(window.session.document.machine.name, "Feeder carousel" if opened else "Banding rig")
            self.assertEqual(window.notice.isVisible(), not opened)
        self.wait(lambda: not window.session.planning.busy)
        self.assertEqual(len(window.rail.cards), 1)

    def test_recent_files_are_listed_and_opened(self):
        path = self.saved()
        window = self.open()
        self.assertTrue(window.open_path(path))
        other = self.open()
        other.head.menu.aboutToShow.emit()
        actions = other.recent_menu.actions()
        self.assertEqual([(a.text(), a.toolTip()) for a in actions], [("feeder.kivant", str(path.resolve()))])
        actions[0].trigger()
        self.wait(lambda: not other.session.planning.busy)
        self.assertEqual(other.session.document.machine.name, "Feeder carousel")

    def test_a_file_that_another_program_has_changed_is_not_replaced_unasked(self):
        path = self.saved()
        window = self.open(Document.open(path))
        window.session.document.edit(replace(window.session.document.machine, name="Mine"), "name")
        project.save(replace(load_example(FEEDER_CAROUSEL), name="Theirs, and longer"), path)
        buttons = QMessageBox.StandardButton
        for answer, name in ((buttons.Cancel, "Theirs, and longer"), (buttons.Yes, "Mine")):
            with mock.patch.object(QMessageBox, "question", return_value=answer) as question:
                self.assertEqual(window.save(), answer == buttons.Yes)
                self.assertIn("has been changed by another program", question.call_args.args[2])
            self.assertEqual(project.load(path).name, name)
        with mock.patch.object(QMessageBox, "question") as question:
            self.assertTrue(window.save())
            question.assert_not_called()

    def test_a_slow_disk_does_not_hold_the_window(self):
        """While a file is written the window lives: keys are taken, an edit stays unsaved, and it does not close."""
        window, path = self.open(), self.folder / "slow.kivant"
        lived, save, closed = threading.Event(), project.save, []

        def slowly(*arguments):
            self.assertTrue(lived.wait(10), "the window was held")
            save(*arguments)

        def meanwhile():
            self.press(window, Qt.Key.Key_End)
            window.session.document.edit(replace(window.session.document.machine, name="Later"), "name")
            closed.append((window.close(), window.save_to(path)))
            lived.set()

        QTimer.singleShot(0, meanwhile)
        with mock.patch("kivant.files.project.save", slowly):
            self.assertTrue(window.save_to(path))
        self.assertEqual(
            (closed, window.session.playhead.time_s), ([(False, False)], window.session.planning.duration_s)
        )
        self.assertEqual((project.load(path).name, window.session.document.modified), ("Banding rig", True))
        QTimer.singleShot(0, lived.set)
        lived.clear()
        read = project.load
        with mock.patch("kivant.files.project.load", lambda p: (lived.wait(10), read(p))[1]):
            self.assertTrue(window.open_path(path))
        self.assertTrue(lived.is_set())

    def test_two_windows_have_two_machines(self):
        window = self.open()
        self.press(window, Qt.Key.Key_N, Qt.KeyboardModifier.ControlModifier)
        second = window.others[0]
        self.addCleanup(self.shut, second)
        self.assertTrue(second.open_path(self.saved()))
        self.wait(lambda: not second.session.planning.busy)
        second.session.document.edit(replace(second.session.document.machine, name="Other"), "name")
        self.assertEqual(
            (window.session.document.machine.name, window.session.document.modified), ("Banding rig", False)
        )

    def test_the_light_and_size_are_remembered_once_chosen(self):
        window = self.open(size=(1333, 777))
        window.close()
        memory = Memory(self.folder / "state")
        self.assertEqual((memory.size, memory.night), ((1333, 777), None))
        window = self.open()
        hints = self.app.styleHints()
        for scheme in (Qt.ColorScheme.Dark, Qt.ColorScheme.Light):
            hints.colorSchemeChanged.emit(scheme)
            self.assertEqual(window.session.theme.night, scheme == Qt.ColorScheme.Dark, "the desktop's is followed")
        self.press(window, Qt.Key.Key_L, Qt.KeyboardModifier.ControlModifier)
        hints.colorSchemeChanged.emit(Qt.ColorScheme.Light)
        self.assertTrue(window.session.theme.night, "what was chosen stays")
        window.close()
        self.assertIs(memory.night, True)
        self.open().session.set_night(False)

    def test_the_window_comes_back_where_it_was_unless_there_is_no_screen_any_more(self):
        for place, found in (((60, 40), True), ((9000, 40), False)):
            window = self.open()
            window.setGeometry(*place, 1100, 700)
            window.close()
            window = Window(Document(load_example()), folder=self.folder / "state")
            self.addCleanup(self.shut, window)
            window.show_where_it_was()
            self.assertEqual((window.geometry().x(), window.geometry().y()) == place, found)
            self.assertEqual((window.width(), window.height()), (1100, 700))

    def test_saving_takes_what_is_being_typed_and_not_what_is_wrong(self):
        window, path = self.open(), self.folder / "typed.kivant"
        window.show_station("ramp")
        field = window.page.fields["speed"]
        for text, saved in (("fast", False), ("30", True)):
            self.type(field, text, enter=False)
            self.assertEqual(window.save_to(path), saved)
            self.assertEqual(field.explanation.isVisible(), not saved)
        self.assertEqual(project.load(path).axes[0].limits.speed, 30.0)

    def test_closing_takes_what_is_being_typed_before_it_asks(self):
        window = self.open()
        window.show_station("ramp")
        self.type(window.page.fields["speed"], "30", enter=False)
        buttons = QMessageBox.StandardButton
        with mock.patch.object(QMessageBox, "question", return_value=buttons.Cancel) as question:
            self.assertFalse(window.close())
            question.assert_called_once()
        self.assertEqual(window.session.document.machine.axes[0].limits.speed, 30.0)

    def test_all_keys_are_told(self):
        window = self.open()
        self.press(window, Qt.Key.Key_F1)
        self.assertTrue(window.sheets.keys.isVisible())
        told = " ".join(label.text() for label in window.sheets.keys.findChildren(QLabel))
        for shortcut in window.findChildren(QShortcut):
            key = shortcut.key().toString()
            self.assertIn("Alt+1 … 6" if key.startswith("Alt+") else key, told)
        for width, height in ((1280, 800), (1100, 700)):
            window.resize(width, height)
            self.app.processEvents()
            self.assertTrue(window.rect().contains(window.sheets.keys.geometry()))
            self.assertGreaterEqual(window.sheets.keys.height(), window.sheets.keys.minimumSizeHint().height())
            for label in window.sheets.keys.findChildren(QLabel):
                self.assertGreaterEqual(label.width(), label.sizeHint().width(), label.text())
        self.press(window, Qt.Key.Key_F8)
        self.assertEqual(window.sheets.open, [window.sheets.findings])
