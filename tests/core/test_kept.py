"""Kept properties."""

from __future__ import annotations

import threading
import unittest

from kivant.core.kept import kept


class Slow:
    """Something whose answer takes as long as somebody wants."""

    def __init__(self, go: threading.Event) -> None:
        self.go, self.began, self.count = go, threading.Event(), 0

    @kept
    def answer(self) -> int:
        """What it answers."""
        self.began.set()
        self.count += 1
        return self.count if self.go.wait(10) else -1


class KeptTest(unittest.TestCase):
    def test_is_worked_out_once_and_told_by_the_class(self):
        go = threading.Event()
        go.set()
        own = Slow(go)
        self.assertEqual((own.answer, own.answer, own.count, Slow.answer.__doc__), (1, 1, 1, "What it answers."))

    def test_nobody_waits_for_what_is_worked_out_of_another_object(self):
        go, never = threading.Event(), threading.Event()
        go.set()
        long, short, found = Slow(never), Slow(go), []
        working = threading.Thread(target=lambda: found.append(long.answer), daemon=True)
        working.start()
        self.assertTrue(long.began.wait(10))
        asking = threading.Thread(target=lambda: found.append(short.answer), daemon=True)
        asking.start()
        asking.join(5)
        self.assertEqual(found, [1])
        never.set()
        working.join(10)
        self.assertEqual(found, [1, 1])
