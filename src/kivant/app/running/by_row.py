"""Rows by hand: one axis is held at a row, and goes on or back by exactly one at each press, until it is let go.

It has a connection of its own for as long as it lasts, on a thread of its own; each order is carried out in its turn,
and what has not begun when it is let go is dropped.
"""

from __future__ import annotations

import queue
import threading
from typing import Any, Literal

from msgspec.structs import replace

from kivant.app.planning.own_move import own_move
from kivant.app.running.status import Log, Status
from kivant.board.protocol.client import Client
from kivant.board.protocol.link import Link
from kivant.board.protocol.spans import spans
from kivant.core.drive.drivers import OwnSequence, driver_kind
from kivant.core.errors import KivantError
from kivant.core.machine import Axis, Machine
from kivant.core.machine.parts import alone
from kivant.core.motion.builder import plan
from kivant.core.quantity import as_decimal
from kivant.core.travel.conversion import steps_per_unit
from kivant.core.travel.sense import chain_sense, rotor_sense

MOST_WAITING = 32
"""Presses that wait for their turn; more are not taken."""
_WATCHDOG_S = 2.0
_POLL_S = 0.005


class ByRow:
    """One axis, row by row; a run like those of a `Streamer`, that ends when it is let go.

    Parameters
    ----------
    machine : Machine
    index : int
        Which axis.
    row : int
        The row that is energised first.
    counts : tuple of int
        Where all axes stand, in steps.
    address : str or None
        Of a board; None: a stand-in of its own.
    """

    def __init__(self, machine: Machine, index: int, row: int, counts: tuple[int, ...], address: str | None) -> None:
        self.index, self.log = index, Log()
        self.status = Status()
        self._counts = counts
        # So that the steps moved since are the row in force; a row on may be a step back of the axis.
        self._sense = rotor_sense(machine.axes[index])
        self.start_steps = (*counts[:index], counts[index] - self._sense * row, *counts[index + 1 :])
        self._machine, self._row, self._address = machine, row, address
        self._orders: queue.Queue[int] = queue.Queue(MOST_WAITING)
        self._ended = threading.Event()

    def step(self, direction: int) -> bool:
        """Go on (1) or back (-1) by one row; return whether it will be done."""
        if self._ended.is_set():
            return False
        try:
            self._orders.put_nowait(direction)
        except queue.Full:
            return False
        return True

    def stop(self) -> None:
        """Let the axis go: its power is taken away."""
        self._ended.set()

    def wake(self) -> None:
        """Do nothing: it is never asleep for long."""

    # On its own thread

    def execute(self) -> Status:
        """Hold the axis until it is let go; return how it ended. Errors end up in the status."""
        try:
            if self._address is not None:
                self._hold(self._address)
            else:
                from kivant.board.standin.server import BoardServer  # few runs need one

                with BoardServer() as server:
                    self._hold(server.address)
            self._publish(phase="stopped", power=False)
        except KivantError as error:
            self._publish(phase="failed", message=str(error))
        finally:
            self._ended.set()
            if not self.status.over:
                self._publish(phase="failed", message="The run was ended by an internal error.")
        return self.status

    def _publish(self, **changes: Any) -> None:
        self.status = replace(self.status, **changes)

    def _hold(self, address: str) -> None:
        axis = _from_row(self._machine.axes[self.index], self._row)
        own = alone(self._machine, axis)
        with Link(address, self.log.add) as link:
            client = Client(link)
            client.set_up(own, (0,), _WATCHDOG_S)
            self._publish(phase="holding", board=address, counts=self._counts)
            try:
                while not self._ended.is_set():
                    self._obey(client, own)
            finally:
                client.cut_power()
                client.counts()  # answered once the power is off

    def _obey(self, client: Client, own: Machine) -> None:
        try:
            direction = self._orders.get(timeout=0.05)
        except queue.Empty:
            return
        if self._ended.is_set():
            return
        (here,) = client.counts()
        axis = own.axes[0]
        ratio = steps_per_unit(axis)
        places = ({axis.name: as_decimal((here + direction) / ratio)}, {axis.name: as_decimal(here / ratio)})
        free: Any = replace(
            axis, limits=replace(axis.limits, min=None, max=None, wrap=None)
        )  # by hand a row has no position
        made = plan(replace(own, axes=(free,)), own_move(*places))
        client.brake()  # at rest this only forgets the motion before
        client.append(list(spans(made)))
        client.end()
        client.start()
        while client.look().motion == "MOVE" and not self._ended.wait(_POLL_S):
            pass
        (counted,) = client.counts()
        counts = list(self.status.counts)
        counts[self.index] += self._sense * (counted - here)
        self._publish(counts=tuple(counts))


def _from_row(axis: Axis, row: int) -> Axis:
    """Return the axis so that it begins at a row and is held there: a board energises the first row of its words."""
    driver: Any = axis.driver
    table = driver_kind(driver).rows(driver)
    if table is not None:
        words = tuple(entry.word for entry in table)
        driver = replace(driver, sequence=OwnSequence(rows=words[row:] + words[:row]))
    forwards: Literal["cw", "ccw"] = "cw" if chain_sense(axis) > 0 else "ccw"
    return replace(axis, driver=replace(driver, at_rest="hold"), positive=forwards)
