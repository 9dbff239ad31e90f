"""Work in the background: the newest wish of each kind is delivered, and nothing while somebody hurries."""

import threading
import unittest
from unittest import mock

from kivant.app.planning.background import Background


class Wishes(unittest.TestCase):
    def setUp(self) -> None:
        self.background = Background()
        self.addCleanup(self.background.close)

    def test_only_the_newest_wish_of_a_key_is_delivered(self):
        """A long one is given up at its next checkpoint; others under other keys are done all the same."""
        begun, arrived, last = threading.Event(), [], threading.Event()

        def endless(checkpoint):
            begun.set()
            while True:
                checkpoint()

        def deliver(result):
            arrived.append(result)
            if len(arrived) == 2:
                last.set()

        self.background.wish("plan", endless, deliver)
        self.assertTrue(begun.wait(5))
        self.background.wish("trial", lambda _checkpoint: "trial", deliver)
        for k in range(40):
            self.background.wish("plan", lambda _checkpoint, k=k: k, deliver)
        self.assertTrue(last.wait(5))
        self.assertEqual(sorted(map(str, arrived)), ["39", "trial"])

    def test_what_is_dropped_does_not_come(self):
        begun, arrived = threading.Event(), threading.Event()

        def endless(checkpoint):
            begun.set()
            while True:
                checkpoint()

        self.background.wish("plan", endless, lambda _result: self.fail("it was dropped"))
        self.assertTrue(begun.wait(5))
        self.background.drop("plan")
        self.background.wish("other", lambda _checkpoint: 0, lambda _result: arrived.set())
        self.assertTrue(arrived.wait(5))

    def test_a_fault_is_told_and_ends_nothing_else(self):
        arrived = threading.Event()
        with mock.patch("threading.excepthook") as told:
            self.background.wish("plan", lambda _checkpoint: 1 / 0, lambda _result: self.fail("there is none"))
            self.background.wish("other", lambda _checkpoint: 0, lambda _result: arrived.set())
            self.assertTrue(arrived.wait(5))
        self.assertIs(told.call_args.args[0].exc_type, ZeroDivisionError)

    def test_nothing_goes_on_while_another_hurries(self):
        arrived = threading.Event()

        def work(checkpoint):
            checkpoint()

        with self.background.hurrying():
            self.background.wish("plan", work, lambda _result: arrived.set())
            with self.background.hurrying():
                pass
            self.assertFalse(arrived.wait(0.1))
        self.assertTrue(arrived.wait(5))
