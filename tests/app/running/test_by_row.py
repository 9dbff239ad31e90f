"""Rows by hand on a stand-in: each press is one row, on or back, and nothing is left on."""

import threading
import unittest

from msgspec.structs import replace

from kivant.app.document.examples import load_example
from kivant.app.running.by_row import MOST_WAITING, ByRow
from kivant.board.standin.server import BoardServer
from kivant.core.geometry.cylindrical import Cylindrical, CylindricalAxes
from kivant.core.machine import Machine
from tests.patience import wait_until

RIG = load_example()


class Rows(unittest.TestCase):
    def held(self, axis: int, row: int, address: str | None = None, machine: Machine = RIG) -> ByRow:
        run = ByRow(machine, axis, row, (5, 5, 5, 5), address)
        self.thread = threading.Thread(target=run.execute, name="run")
        self.thread.start()
        self.addCleanup(self.thread.join)
        self.addCleanup(run.stop)
        wait_until(lambda: run.status.phase != "connecting")
        self.assertEqual(run.status.phase, "holding", run.status.message)
        return run

    def test_each_press_is_a_row(self):
        carried = replace(RIG, geometry=Cylindrical(axes=CylindricalAxes(turn="Wheel", reach="Reach", z="Lift")))
        for machine, axis, row, presses in (
            (RIG, 0, 6, (1, 1, 1, -1)), (RIG, 3, 2, (-1, -1, 1)), (RIG, 1, 0, (1,) * 5), (carried, 0, 6, (1, -1, -1)),
        ):  # fmt: skip
            run = self.held(axis, row, machine=machine)
            self.assertTrue(all(run.step(way) for way in presses))
            wanted = 5 + sum(presses)
            sent = f"counts to {wanted}"
            wait_until(lambda run=run, axis=axis, wanted=wanted: run.status.counts[axis] == wanted)
            self.assertEqual(run.status.counts[axis] - run.start_steps[axis], row + sum(presses), sent)
            run.stop()
            self.thread.join()
            self.assertEqual((run.status.phase, run.status.power, run.step(1)), ("stopped", False, False))

    def test_the_row_is_on_the_lines_and_off_at_the_end(self):
        with BoardServer() as server:
            run = self.held(0, 3, server.address)
            self.assertEqual(self.levels(server.address), "0,1,1,0", "row 3 of half: B and C")
            run.step(1)
            wait_until(lambda: run.status.counts[0] == 6)
            self.assertEqual(self.levels(server.address), "0,0,1,0", "row 4: C")
            run.stop()
            self.thread.join()
            self.assertEqual(self.levels(server.address), "0,0,0,0")

    def levels(self, address: str) -> str:
        from kivant.board.protocol.link import Link

        with Link(address, lambda *_: None) as link:
            return ",".join(link.ask("LINE:LEVel?").split(",")[:4])

    def test_too_many_presses_and_no_board(self):
        run = ByRow(RIG, 0, 0, (0,) * 4, "127.0.0.1:9")
        self.assertEqual(sum(run.step(1) for _ in range(MOST_WAITING + 5)), MOST_WAITING)
        self.assertEqual(run.execute().phase, "failed")
        self.assertIn("127.0.0.1:9", run.status.message)


if __name__ == "__main__":
    unittest.main()
