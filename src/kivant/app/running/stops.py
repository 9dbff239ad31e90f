"""Stops of one run: how often it was asked for, and whether the board has had its time to obey."""

from __future__ import annotations

import time

OBEYING_S = 1.0
"""How long a board has to obey once its power was to be taken away, before nobody has to wait for it any longer."""


class Stops:
    """When a run was asked to stop: the first time to brake, the second to take the power away."""

    def __init__(self) -> None:
        self._asked_s: list[float] = []

    def ask(self) -> None:
        """Take down that a stop was asked for."""
        self._asked_s.append(time.monotonic())

    @property
    def overdue(self) -> bool:
        """Whether the board should long be without power, so that the run can be given up."""
        return len(self._asked_s) > 1 and time.monotonic() - self._asked_s[1] > OBEYING_S
