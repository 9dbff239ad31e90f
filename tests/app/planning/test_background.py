"""Work in the background: the newest wish of each kind is delivered, and nothing while somebody hurries."""

import threading
import unittest
from unittest import mock

from kivant.app.internal_error import InternalError
from kivant.app.planning.background import Background, Calm
from kivant.core.errors import Fault, KivantError


class Wishes(unittest.TestCase):
    def setUp(self) -> None:
        self.calm = Calm()
        self.background = Background(self.calm)
        self.addCleanup(self.background.close)

    def wish(self, key, work, deliver) -> None:
        self.background.wish(key, work, deliver, lambda error: self.fail(f"it failed: {error}"))

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

        self.wish("plan", endless, deliver)
        self.assertTrue(begun.wait(5))
        self.wish("trial", lambda _checkpoint: "trial", deliver)
        for k in range(40):
            self.wish("plan", lambda _checkpoint, k=k: k, deliver)
        self.assertTrue(last.wait(5))
        self.assertEqual(sorted(map(str, arrived)), ["39", "trial"])

    def test_what_is_dropped_does_not_come(self):
        begun, arrived = threading.Event(), threading.Event()

        def endless(checkpoint):
            begun.set()
            while True:
                checkpoint()

        self.wish("plan", endless, lambda _result: self.fail("it was dropped"))
        self.assertTrue(begun.wait(5))
        self.background.drop("plan")
        self.wish("other", lambda _checkpoint: 0, lambda _result: arrived.set())
        self.assertTrue(arrived.wait(5))

    def test_who_waits_learns_of_an_error_and_nothing_else_ends(self):
        """What a user can put right comes as it is; an error of the code's own is printed, and told as one."""

        def wrong(_checkpoint):
            raise KivantError(Fault("axis", "Too fast.", "Go slower."))

        failed, arrived = [], threading.Event()
        with mock.patch("threading.excepthook") as told:
            for key, work in (("plan", wrong), ("trial", lambda _checkpoint: 1 / 0)):
                self.background.wish(key, work, lambda _result: self.fail("there is none"), failed.append)
            self.wish("other", lambda _checkpoint: 0, lambda _result: 1 / 0)  # also in who takes the result
            self.wish("last", lambda _checkpoint: 0, lambda _result: arrived.set())
            self.assertTrue(arrived.wait(5))
        self.assertEqual([call.args[0].exc_type for call in told.call_args_list], [ZeroDivisionError] * 2)
        self.assertEqual([type(error) for error in failed], [KivantError, InternalError])
        self.assertIn("not enough memory", str(InternalError(MemoryError())))
        self.assertRegex(str(failed[1]), r"ZeroDivisionError in app/planning/background\.py, line \d+\. Take back")

    def test_nothing_goes_on_in_any_background_while_another_hurries(self):
        arrived, other = [threading.Event(), threading.Event()], Background(self.calm)
        self.addCleanup(other.close)

        def work(checkpoint):
            checkpoint()

        with self.calm.hurrying():
            for background, event in zip((self.background, other), arrived, strict=True):
                background.wish("plan", work, lambda _result, event=event: event.set(), self.fail)
            with self.calm.hurrying():
                pass
            self.assertFalse(any(event.wait(0.1) for event in arrived))
        self.assertTrue(all(event.wait(5) for event in arrived))
