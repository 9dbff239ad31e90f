"""Long work in turns."""

from __future__ import annotations

from contextlib import nullcontext
from unittest import mock

from PySide6.QtCore import QEvent
from shiboken6 import isValid

from kivant.core.machine.axes import delete_axis
from kivant.desktop.kit.turns import Turns
from tests.desktop.base import WindowTest


class TurnsOfWork(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.done: list[str] = []
        self.turns = Turns(nullcontext)
        patch = mock.patch("kivant.desktop.kit.turns._TURN_S", 0.0)  # one part a turn
        patch.start()
        self.addCleanup(patch.stop)

    def work(self, name: str, parts: int):
        for k in range(parts):
            self.done.append(f"{name}{k}")
            yield

    def test_each_turn_does_one_part_and_other_events_come_between(self):
        self.turns.do(self.turns, self.work("a", 3))
        self.assertEqual(self.done, [])
        seen = []
        while len(seen) < 6:
            self.app.processEvents()
            seen.append(len(self.done))
        self.assertEqual(seen[:3], [1, 2, 3])
        self.assertEqual(seen[-1], 3)

    def test_nothing_is_done_for_a_widget_that_is_gone(self):
        """A card of the rail is taken away while its picture is waiting, and half painted."""
        window = self.open()
        session, cards = window.session, list(window.rail.cards)
        for begun in (False, True):
            for card in window.rail.cards:
                card.redraw()
            if begun:
                session.turns.turn()
            session.edit(delete_axis(1), "delete")
            self.app.sendPostedEvents(None, QEvent.Type.DeferredDelete)
            self.assertFalse(isValid(cards[0]))
            self.wait(lambda: not session.planning.busy and not session.turns.busy)
        self.assertEqual(len(window.rail.cards), 2)

    def test_what_has_not_begun_is_superseded_and_what_has_is_finished_first(self):
        self.turns.do(self.turns, self.work("old", 2))
        self.turns.do(self.turns, self.work("a", 2))
        self.app.processEvents()
        for name in ("b", "c", "d"):
            self.turns.do(self.turns, self.work(name, 1))
        self.wait(lambda: len(self.done) == 3)
        self.assertEqual(self.done, ["a0", "a1", "d0"])
        self.turns.do(self.turns, self.work("late", 1))
        self.turns.close()
        self.app.processEvents()
        self.assertNotIn("late0", self.done)
