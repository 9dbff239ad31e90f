"""Things that are kept beside each axis of the open document, and go with it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Generic, TypeVar

from kivant.desktop.state.session import Session

Kept = TypeVar("Kept")


class PerAxis(Generic[Kept]):
    """One thing for each axis, by its name; made when it is first asked for."""

    def __init__(self, session: Session, make: Callable[[], Kept]) -> None:
        self._session, self._make = session, make
        self._document: object = None
        self._kept: dict[str, Kept] = {}

    @property
    def now(self) -> Kept:
        """The chosen axis's."""
        if self._document is not self._session.document:
            self._document, self._kept = self._session.document, {}
        axis = self._session.choice.axis
        name = axis.name if axis else ""
        if name not in self._kept:
            self._kept[name] = self._make()
        return self._kept[name]
