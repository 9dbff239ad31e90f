"""Repainting must not wear out the interpreter: some versions of the toolkit lose references while painting."""

import gc
import sys

from tests.desktop.base import WindowTest


class Repaint(WindowTest):
    def test_five_hundred_repaints_leave_the_reference_counts_alone(self):
        window = self.open()
        window.grab()
        gc.collect()  # what earlier windows have left must not go during the count
        before = [sys.getrefcount(value) for value in (None, True, False)]
        for k in range(500):
            window.session.playhead.go(k * 0.03)
            window.grab()
        gc.collect()
        after = [sys.getrefcount(value) for value in (None, True, False)]
        for name, a, b in zip(("None", "True", "False"), before, after, strict=True):
            self.assertLess(abs(b - a), 250, f"references to {name}: {a} before, {b} after")
