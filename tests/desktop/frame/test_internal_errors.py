"""What nobody has caught, in the window or beside it, is told once and kept with its details."""

import threading
from collections.abc import Callable
from unittest import mock

from PySide6.QtCore import QEventLoop, QTimer
from PySide6.QtWidgets import QPushButton, QWidget

from kivant.app.internal_error import ErrorLog
from kivant.core.errors import Fault, KivantError
from kivant.core.program.sentences import sentence
from kivant.desktop.frame.internal_errors import InternalErrors
from kivant.desktop.kit.theme import Theme
from kivant.desktop.stations import STATIONS
from tests.desktop.base import WindowTest


class Painted(QWidget):
    def paintEvent(self, _event):
        raise IndexError("none there")


def in_a_slot():
    raise KivantError(Fault("axis", "Too fast.", "Go slower."))


def on_a_thread():
    raise LookupError("no such thing")


class Uncaught(WindowTest):
    def live(self, until: Callable[[], bool]) -> None:
        """Wait in an event loop, as the window lives in one: what is raised within it is not handed on."""
        loop, timer = QEventLoop(), QTimer(interval=5)
        timer.timeout.connect(lambda: loop.quit() if until() else None)
        QTimer.singleShot(20_000, loop.quit)
        timer.start()
        loop.exec()
        self.assertTrue(until(), "waited in vain")

    def test_it_is_told_by_a_notice_wherever_it_was_raised(self):
        window, log = self.open(), ErrorLog(self.folder)
        notice, drawn = window.notice, Painted(window)
        with mock.patch("threading.excepthook") as printed, InternalErrors(log) as errors:
            errors.came.connect(window.session.notice)
            button = QPushButton(window)
            button.clicked.connect(in_a_slot)
            button.click()
            self.live(notice.isVisible)
            self.assertEqual((notice.text.text(), log.file.exists()), ("axis: Too fast. Go slower.", False))
            for begin, told in (
                (lambda: threading.Thread(target=on_a_thread).start(), "LookupError"),
                (drawn.show, "IndexError"),
            ):
                notice.hide()
                begin()
                self.live(notice.isVisible)
                self.assertRegex(notice.text.text(), rf"Internal error: {told}( in .*)?\. Take back")
                self.assertIn(str(log.file), notice.text.text())
            notice.hide()
            drawn.update()
            threading.Thread(target=on_a_thread).start()
            self.live(lambda: printed.call_count == 2 and len(self.raised) >= 3)
            self.live(lambda: True)
            self.assertFalse(notice.isVisible(), "the same is told once")
            drawn.hide()
        self.assertEqual({type(error) for error in self.raised}, {KivantError, IndexError})
        self.raised.clear()
        kept = log.file.read_text()
        self.assertEqual((kept.count("\nLookupError: "), kept.count("\nIndexError: ")), (1, 1))
        self.assertEqual(log.file.stat().st_mode & 0o777, 0o600)

    def test_what_cannot_be_painted_leaves_no_painter_behind(self):
        """The toolkit does not live on with a painter that an error's traceback keeps."""
        for station in STATIONS:
            window = self.open()  # a new one: what listens to events may have failed in the one before
            window.show_station(station)
            self.settle(window)
            self.raised.clear()
            with mock.patch.object(Theme, "color", side_effect=IndexError("no such colour")):
                window.update()
                self.live(lambda: bool(self.raised))
                with self.assertRaises(IndexError):
                    window.grab()
            painting = [widget for widget in window.findChildren(QWidget) if widget.paintingActive()]
            self.assertEqual((painting, {*map(type, self.raised)}), ([], {IndexError}), station)
        self.raised.clear()

    def test_a_list_that_cannot_say_a_block_shows_all_others(self):
        """The toolkit does not live on where what it asks a list raises an error."""
        window = self.open()
        broken = {"Lift to 48 mm": KeyError}

        def wrong(block, units):
            said = sentence(block, units)
            if said in broken:
                raise broken[said]
            return said

        with mock.patch("kivant.desktop.stations.routine.block_model.sentence", wrong):
            window.show_station("routine")
            self.wait(lambda: KeyError in map(type, self.raised))
            model = window.page.list.model()
            told = [model.index(row, 0).data() for row in range(model.rowCount())]
            self.assertEqual((told.index(""), told.count("")), (2, 1))
        self.raised.clear()
