"""Long work in turns, and the curves that are painted in them."""

from __future__ import annotations

import unittest
from contextlib import nullcontext
from unittest import mock

import numpy as np
from PySide6.QtCore import QEvent
from shiboken6 import isValid

from kivant.app import editing
from kivant.desktop.curves import envelope
from kivant.desktop.turns import Turns
from tests.desktop.base import WindowTest


class TurnsOfWork(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.done: list[str] = []
        self.turns = Turns(nullcontext)
        patch = mock.patch("kivant.desktop.turns._TURN_S", 0.0)  # one part a turn
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
                session.turns._turn()
            session.edit(editing.delete_axis(1), "delete")
            self.app.sendPostedEvents(None, QEvent.Type.DeferredDelete)
            self.assertFalse(isValid(cards[0]))
            self.wait(lambda: not session.planning and not session.turns._work)
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


class Envelopes(unittest.TestCase):
    def test_every_column_shows_the_greatest_speed_in_it(self):
        """Against a dense reading of the same curve, with jumps, rests and one long cruise between two corners."""
        random = np.random.default_rng(7)
        times = np.sort(random.uniform(0, 10, 300))
        times[100:] += 30.0  # nothing happens in between: the curve goes on straight
        times[50] = times[51]
        shares = random.uniform(0, 1, 300)
        columns = 64
        middles, tops = envelope((times, shares), 40.0, columns)
        dense = np.concatenate((np.linspace(0, 40, 64 * 400 + 1), times))
        height = np.concatenate((np.interp(dense[: -len(times)], times, shares), shares))
        for k in range(columns):
            inside = (dense >= k * 40 / columns) & (dense <= (k + 1) * 40 / columns)
            self.assertAlmostEqual(tops[k], height[inside].max(), places=2)
        np.testing.assert_allclose(middles, (np.arange(columns) + 0.5) * 40 / columns)
