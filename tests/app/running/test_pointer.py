"""A stand-in that is a little wrong: its pointer is read, what is found is applied, and it is right afterwards."""

import time
import unittest
from decimal import Decimal

from kivant.app.measuring import proposed, way_to
from kivant.app.running.source import PlanSource
from kivant.app.running.streamer import Streamer
from kivant.core.machine import Move, Routine
from kivant.core.machine.calibrations import apply_fit
from kivant.core.plan import plan
from kivant.core.travel.calibrating import Fit, Observation, fit
from kivant.core.travel.mechanics import Mechanics, Pointer, Ripple
from tests.machines import machine, screw_axis

TRUE = Mechanics(scale=0.9871, backlash=0.3, periodic=(Ripple(shaft=0, amplitude=0.04, phase_deg=30.0),), noise=0.004)


class Pointers(unittest.TestCase):
    def test_calibrating_cures_a_machine_that_is_a_little_wrong(self):
        pointers = {"Lift": Pointer(TRUE, 1)}
        found, here = self.measured(machine(screw_axis()), pointers, Decimal(0), 1)
        self.assertLess(abs(found.scale - TRUE.scale), 4 * found.scale_se)
        self.assertLess(abs(found.backlash - TRUE.backlash), 4 * found.backlash_se)
        self.assertLess(found.scale_se, 1e-4)
        (ripple,) = found.periodic
        self.assertEqual(ripple.shaft, 0)
        self.assertLess(abs(ripple.amplitude - 0.04), 4 * ripple.amplitude_se)
        mended = apply_fit(0, found, "2026-03-01")(machine(screw_axis()))
        place = Decimal(str(round(float(here) * float(found.scale), 9)))
        after, _ = self.measured(mended, pointers, place, -1)
        self.assertLess(abs(after.scale - 1), 4 * after.scale_se + 1e-5)
        self.assertLess(abs(after.backlash), 4 * after.backlash_se + 0.005)

    def measured(self, built, pointers, here: Decimal, sense: int) -> tuple[Fit, Decimal]:
        """Return what is found by going to all proposed places on a stand-in that lives fast, and where it ends."""
        axis, read = built.axes[0], []
        for target in proposed(axis):
            way = tuple(Move(to={"Lift": Decimal(str(float(p)))}) for p in way_to(axis, target))
            made = plan(built, Routine(name="there", start={"Lift": here}, blocks=way), senses={"Lift": sense})
            begun = time.monotonic()
            clock = lambda begun=begun: (time.monotonic() - begun) * 200  # noqa: E731
            status = Streamer(
                lambda made=made: PlanSource(made), clock=clock, watchdog_s=0, pointers=pointers
            ).execute()
            self.assertTrue(status.agrees, status)
            read.append(Observation(float(target.position), target.approach, status.pointers["Lift"]))
            here, sense = Decimal(str(float(target.position))), target.approach
        return fit(axis, read), here

    def test_a_pointer_stays_whatever_it_is_called(self):
        exact = Pointer(Mechanics(backlash=1.0))
        exact.attach(10.0, (1.0,))
        for called, gone, shows in ((0, 50, 4.5), (0, -20, 3.5), (-20, -22, 3.3), (-22, -12, 3.3), (-12, -10, 3.5)):
            exact.stand_at(called)
            exact.follow(gone)
            self.assertAlmostEqual(exact.read(), shows, places=9, msg=(called, gone))

    def test_a_motor_that_loses_steps_stands_behind_by_them(self):
        """One step in 50 is lost, in whichever direction: counted step by step, beside the same in long runs."""
        stretches = (120, -75, 49, 1, -333, 1000)
        for cut in (1, 7, 10_000):
            pointer, lost, walked, count = Pointer(Mechanics(lost_every=50)), 0, 0, 0
            pointer.attach(10.0, (1.0,))
            pointer.stand_at(0)
            for stretch in stretches:
                way = 1 if stretch > 0 else -1
                for done in range(0, abs(stretch), cut):
                    count += way * min(cut, abs(stretch) - done)
                    pointer.follow(count)
                for _ in range(abs(stretch)):
                    walked += 1
                    lost += way * (walked % 50 == 0)
            self.assertAlmostEqual(pointer.read(), (count - lost) / 10, places=9, msg=cut)


if __name__ == "__main__":
    unittest.main()
