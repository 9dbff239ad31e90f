"""Where the window is: where it was left, and always whole on a screen, with the frame that the desktop puts around it.

A desktop tells how thick its frame is only after it has drawn it, so the window is fitted by a guess before it is
shown, and once more soon after.
"""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QMargins, QObject, QPoint, QRect, QSize, QTimer
from PySide6.QtGui import QGuiApplication, QScreen
from PySide6.QtWidgets import QWidget

LEAST = QSize(1000, 660)
"""How small a window may be made; where a screen has less room, the screen's."""

_SOON_MS = 250
_USUAL_FRAME = QMargins(6, 38, 6, 6)


def areas() -> list[QRect]:
    """Return the part of each screen that panels leave free."""
    return [screen.availableGeometry() for screen in QGuiApplication.screens()]


def fitted(frame: QRect, free: Sequence[QRect]) -> QRect:
    """Return a frame moved, and made smaller where it must be, so that it lies in the area that shows most of it."""

    def shown(area: QRect) -> int:
        common = area.intersected(frame)
        return common.width() * common.height() if not common.isEmpty() else 0

    area = max(free, key=shown)
    size = frame.size().boundedTo(area.size())
    x = min(max(frame.x(), area.x()), area.x() + area.width() - size.width())
    y = min(max(frame.y(), area.y()), area.y() + area.height() - size.height())
    return QRect(QPoint(x, y), size)


class Placement(QObject):
    """Shows a window, and fits it to its screen then, when it is restored, and when screens change."""

    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self._window = window
        self._soon = QTimer(self, singleShot=True, interval=_SOON_MS)
        self._soon.timeout.connect(self.fit)
        window.setMinimumSize(LEAST)

    def show(self, place: tuple[int, int] | None = None, *, maximized: bool = False) -> None:
        """Show the window with its corner at a place, if that is on a screen still."""
        geometry = self._window.geometry()
        if place is not None and any(area.contains(place[0] + 80, place[1] + 20) for area in areas()):
            geometry.moveTo(*place)
            self._window.setGeometry(geometry)
        elif areas():  # where the desktop will put it is not known: only its size can be wrong
            self._window.resize(fitted(geometry.marginsAdded(_USUAL_FRAME), areas()).size().shrunkBy(_USUAL_FRAME))
        if maximized:
            self._window.showMaximized()
        else:
            self._window.show()
        for screen in QGuiApplication.screens():
            self._watch(screen)
        app = QGuiApplication.instance()
        assert isinstance(app, QGuiApplication)
        app.screenAdded.connect(self._watch)
        app.screenRemoved.connect(self.fit_soon)
        self.fit_soon()

    def _watch(self, screen: QScreen) -> None:
        screen.availableGeometryChanged.connect(self.fit_soon)

    def fit_soon(self, *_: object) -> None:
        """Fit the window once the desktop has done what it is about to do."""
        self._soon.start()

    def fit(self) -> None:
        """Make sure that the whole window can be seen, frame and all."""
        window, free = self._window, areas()
        if not free or not window.isVisible() or window.isMaximized() or window.isFullScreen() or window.isMinimized():
            return
        frame, inner = window.frameGeometry(), window.geometry()
        border = QMargins(
            inner.x() - frame.x(),
            inner.y() - frame.y(),
            frame.right() - inner.right(),
            frame.bottom() - inner.bottom(),
        )
        wanted = fitted(frame, free).marginsRemoved(border)
        if wanted != inner:
            window.setMinimumSize(LEAST.boundedTo(wanted.size()))
            window.setGeometry(wanted)
