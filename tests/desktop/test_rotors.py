"""Simulated rotors in the window: how far they lag, where they slip, and the rotor that is seen to stand elsewhere."""

from unittest import mock

from msgspec.structs import replace

from kivant.app.document.document import Document
from kivant.app.document.examples import load_example
from kivant.core.motor.following import follow
from kivant.desktop.widgets.rotor_switch import RotorSwitch, rotor_words
from tests.desktop.base import WindowTest
from tests.patience import wait_until


class Rotors(WindowTest):
    def simulated(self, machine):
        window = self.open(Document(machine))
        self.settle(window)
        switch = window.findChild(RotorSwitch)
        switch.click()
        wait_until(lambda: (self.app.processEvents(), not window.session.following.busy)[1])
        self.settle(window)
        return window, switch

    def hasty(self):
        """Return the demo machine with a lift that is asked for too much."""
        rig = load_example()
        lift = rig.axes[1]
        limits = replace(lift.limits, speed=300.0, acceleration=15_000.0, deceleration=15_000.0)
        return replace(rig, axes=(rig.axes[0], replace(lift, limits=limits), *rig.axes[2:]))

    def test_slips_are_marked_and_told(self):
        window, switch = self.simulated(self.hasty())
        session = window.session
        made = session.planning.plan
        alone = follow(made.machine, made.axes[1])
        found = session.following.of(1)
        self.assertEqual(found.motion.slipped_full_steps, alone.slipped_full_steps)
        self.assertEqual(len(found.slips_s) % 2, 0)
        self.assertAlmostEqual(found.slips_s[0], alone.first_slip_s, delta=0.01)
        self.assertRegex(switch.toolTip(), r"Lift slips, first at 1.27\d* s, 40 full steps in all.")
        self.assertRegex(switch.toolTip(), r"Reach follows, at most \d+ deg behind of 180; .* rests after .* ms.")
        window.show_station("run")
        session.choice.select(1)
        self.settle(window)
        red = session.theme.color("bad").rgb()
        for track in (window.bar.track, window.pages["run"].lanes):
            picture = track.grab().toImage()
            seen = sum(picture.pixel(x, y) == red for x in range(picture.width()) for y in range(picture.height()))
            self.assertGreater(seen, 10)
        window.show_station("phases")
        view = window.pages["phases"].rotor
        for seconds, words in ((0.5, r"simulated: -?\d+° behind"), (1.31, "simulated: it slipped")):
            session.playhead.go(seconds)
            self.settle(window)
            self.assertRegex(view.words(), words)
            view.grab()

    def test_it_keeps_up_with_the_plan_and_ends_when_it_is_switched_off(self):
        window, switch = self.simulated(self.hasty())
        session = window.session
        before = session.following.of(1)
        session.bench.edit(lambda _machine: load_example(), "gentle")
        self.settle(window)
        wait_until(lambda: (self.app.processEvents(), not session.following.busy)[1])
        self.assertIsNot(session.following.of(1), before)
        self.assertIn("Lift follows", rotor_words(session, 1))
        self.assertEqual(len(session.following.of(1).slips_s), 0)
        lag = session.following.lag_at(1, 0.4)
        self.assertTrue(0 < abs(lag) < 90, lag)
        switch.click()
        self.assertIsNone(session.following.of(1))
        self.assertIsNone(session.following.lag_at(1, 0.4))
        self.assertNotIn("follows", switch.toolTip())

    def test_what_cannot_be_simulated_is_told(self):
        rig = load_example()
        weak = replace(rig.axes[1], motor=replace(rig.axes[1].motor, rotor_inertia_kgm2=1e-22, inductance_mh=1e-9))
        window, switch = self.simulated(replace(rig, axes=(rig.axes[0], weak, *rig.axes[2:])))
        self.assertRegex(switch.toolTip(), "Lift: .*simulate a shorter motion")
        self.assertIn("Wheel follows", switch.toolTip())
        self.assertIsNone(window.session.following.of(1))
        with mock.patch("kivant.app.planning.following.MOST_STEPS", 1000):
            window, switch = self.simulated(rig)
        self.assertRegex(
            switch.toolTip(), "Wheel takes 5,844 steps; up to 1,000 are simulated. Choose a shorter routine."
        )
