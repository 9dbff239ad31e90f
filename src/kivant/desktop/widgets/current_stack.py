"""Pages in one place of which one is seen, and that makes room for this one only."""

from __future__ import annotations

from PySide6.QtCore import QSize
from PySide6.QtWidgets import QStackedWidget


class CurrentStack(QStackedWidget):
    """As large as the page that is seen, and not as the largest of all."""

    def __init__(self) -> None:
        super().__init__()
        self.currentChanged.connect(lambda _index: self.updateGeometry())

    def sizeHint(self) -> QSize:
        """Return the size that the page would like to have."""
        page = self.currentWidget()
        return page.sizeHint() if page else super().sizeHint()

    def minimumSizeHint(self) -> QSize:
        """Return the least size of the page."""
        page = self.currentWidget()
        return page.minimumSizeHint() if page else super().minimumSizeHint()
