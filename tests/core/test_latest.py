"""The latest results: each is made once as long as it is among them, and what fails is not kept."""

from __future__ import annotations

import threading
import unittest

from kivant.core.latest import Latest


class Results(unittest.TestCase):
    def test_so_many_are_known_of_which_the_longest_unused_goes_first(self):
        made, latest = list[str](), Latest[str](2)

        def make(key: str) -> str:
            made.append(key)
            return key.upper()

        for key in "abacab":  # c takes the place of b, which comes again for that of c
            self.assertEqual(latest.of(key, lambda key=key: make(key)), key.upper())
        self.assertEqual("".join(made), "abcb")

    def test_what_fails_is_not_kept_and_holds_nobody_up(self):
        """Another thread gets a result while one is being made."""
        latest, begun, over = Latest[int](9), threading.Event(), threading.Event()

        def fail() -> int:
            begun.set()
            self.assertTrue(over.wait(5))
            raise ValueError

        def ask() -> None:
            with self.assertRaises(ValueError):
                latest.of("slow", fail)

        thread = threading.Thread(target=ask)
        thread.start()
        self.assertTrue(begun.wait(5))
        self.assertEqual(latest.of("other", lambda: 1), 1)
        over.set()
        thread.join()
        self.assertEqual(latest.of("slow", lambda: 2), 2)
