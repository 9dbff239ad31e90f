"""The whole window is on a screen, with its frame: at the start, when it is restored, and when screens change."""

from unittest import mock

from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import QRect
from PySide6.QtGui import QGuiApplication

from kivant.desktop.frame.placement import LEAST, fitted
from tests.desktop.base import WindowTest

SMALL = QRect(0, 27, 1280, 773)  # 1280 x 800 with a panel at the top
FRAME = (4, 30, 4, 4)


def with_frame(window) -> QRect:
    left, top, right, bottom = FRAME
    return window.geometry().adjusted(-left, -top, right, bottom)


class Placed(WindowTest):
    def place(self, *free: QRect):
        """Let the desktop have these free areas, and a frame around each window that it shows."""
        window = self.open()
        window.hide()
        for patch in (
            mock.patch("kivant.desktop.frame.placement.areas", return_value=list(free)),
            mock.patch.object(window, "frameGeometry", lambda: with_frame(window)),
        ):
            patch.start()
            self.addCleanup(patch.stop)
        return window

    def test_a_usual_window_fits_a_small_screen_with_its_frame(self):
        """The bar with Stop is in sight from the first moment on, wherever the window was left."""
        for place in (None, (300, 400), (-40, 0), (9000, 40)):
            window = self.place(SMALL)
            window.resize(1280, 800)
            window.placement.show(place)
            self.wait(lambda w=window: SMALL.contains(with_frame(w)))
            bar = QRect(window.bar.mapToGlobal(window.bar.rect().topLeft()), window.bar.size())
            self.assertTrue(SMALL.contains(bar), (place, bar))
            window.close()

    def test_it_follows_when_it_is_restored_and_when_a_screen_goes_away(self):
        window = self.place(SMALL, SMALL.translated(1280, 0))
        window.placement.show((1400, 100))
        self.wait(lambda: SMALL.translated(1280, 0).contains(with_frame(window)))
        with mock.patch("kivant.desktop.frame.placement.areas", return_value=[SMALL]):
            QGuiApplication.instance().screenRemoved.emit(QGuiApplication.primaryScreen())
            self.wait(lambda: SMALL.contains(with_frame(window)))
            window.showMaximized()
            self.app.processEvents()
            window.setGeometry(0, 0, 1400, 900)
            window.showNormal()
            window.setGeometry(200, 200, 1280, 800)
            self.wait(lambda: SMALL.contains(with_frame(window)))

    def test_a_screen_smaller_than_the_least_window_shows_all_of_it_that_can_be(self):
        tiny = QRect(0, 0, 1024, 600)
        window = self.place(tiny)
        window.placement.show()
        self.wait(lambda: tiny.contains(with_frame(window)))
        self.assertLess(window.height(), LEAST.height())

    @given(*(st.integers(-9000, 9000) for _ in range(2)), *(st.integers(1, 4000) for _ in range(2)))
    def test_what_fits_stays_as_large_and_what_is_in_sight_stays_where_it_is(self, x, y, width, height):
        free = [QRect(0, 27, 1920, 1053), QRect(1920, 0, 1280, 800)]
        frame = QRect(x, y, width, height)
        found = fitted(frame, free)
        self.assertTrue(any(area.contains(found) for area in free))
        if any(area.contains(frame) for area in free):
            self.assertEqual(found, frame)
        held = [area for area in free if area.contains(found)]
        self.assertTrue(any(found.size() == frame.size().boundedTo(area.size()) for area in held))
