"""The rotor at a step: angles by counting, fields by complex numbers, one turn for one revolution of steps."""

import cmath
import math
import unittest

from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from kivant.core.drive.rotor import rotor_state
from kivant.core.travel.conversion import steps_per_rev
from tests.machines import coil_axis, screw_axis


class Rotor(unittest.TestCase):
    @given(st.integers(-(10**6), 10**6), st.sampled_from(["wave", "full", "half"]))
    def test_coils_make_the_field_and_four_full_steps_turn_it_once(self, steps, sequence):
        """The field is the sum of the coils that are on; the shaft turns by steps over steps per revolution."""
        axis = coil_axis(sequence=sequence)
        state = rotor_state(axis, steps)
        field = sum(current * 1j**k for k, current in enumerate(state.coils))
        self.assertAlmostEqual(abs(field), state.torque)
        self.assertAlmostEqual(cmath.phase(field / cmath.rect(1, math.radians(state.electrical_deg))), 0.0)
        self.assertAlmostEqual(state.mechanical_deg, (steps / steps_per_rev(axis) * 360) % 360, places=6)
        self.assertEqual(rotor_state(axis, steps + (8 if sequence == "half" else 4)).coils, state.coils)

    @given(st.integers(-(10**6), 10**6), st.sampled_from([1, 2, 5, 8, 256]))
    def test_microsteps_turn_the_field_evenly_with_constant_torque(self, steps, microsteps):
        """Currents in quadrature: the field's length is 1 at every microstep, its angle 90 degrees a full step."""
        axis = screw_axis(microsteps=microsteps)
        state, following = rotor_state(axis, steps), rotor_state(axis, steps + 1)
        a, b, c, d = state.coils
        self.assertAlmostEqual(math.hypot(a, b), 1.0)
        self.assertEqual((c, d), (-a, -b))
        self.assertAlmostEqual((following.electrical_deg - state.electrical_deg) % 360, 90 / microsteps)
        self.assertAlmostEqual(math.degrees(math.atan2(b, a)) % 360, state.electrical_deg % 360, places=9)

    def test_a_revolution_comes_back(self):
        for axis in (
            coil_axis(),
            screw_axis(),
            replace(coil_axis(), motor=replace(coil_axis().motor, full_steps_per_rev=48)),
        ):
            self.assertEqual(rotor_state(axis, int(steps_per_rev(axis))), rotor_state(axis, 0))
            self.assertEqual(rotor_state(axis, 0).electrical_deg, 0.0)
