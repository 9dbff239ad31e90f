"""CSV and VCD, read back by independent readers and held against the plan."""

import csv
import io
import unittest
from unittest import mock

import numpy as np
from msgspec.structs import replace
from vcd.reader import TokenKind, tokenize

from kivant.app.document.examples import load_example
from kivant.core.machine import Pause, Routine
from kivant.core.plan import Plan, plan
from kivant.core.signals import signals_between
from kivant.files.csv_trace import csv_chunks
from kivant.files.digits import last_words_for, led_words_for, put_ascending, put_last, text_of
from kivant.files.vcd_trace import scope_names, vcd_chunks
from tests.machines import coil_axis, limits, machine, move, pair_axis, screw_axis


def pieces_of(most: int):
    """Let plans hand out so many steps at a time, so that the seams are tested."""
    whole = Plan.slices
    return mock.patch.object(Plan, "slices", lambda made: whole(made, most))


class Csv(unittest.TestCase):
    def test_every_step_is_there_in_time_order(self):
        """Read by the standard library: the same steps as in the plan, whatever the size of the pieces."""
        odd = replace(coil_axis('An "odd", axis', 40), limits=limits(100.0, 500.0))
        built = machine(screw_axis(), odd, blocks=(move(to={"Lift": "1", odd.name: "-30"}), move(to={"Lift": "-0.5"})))
        for most in (7, 100_000):
            made = plan(built)
            with pieces_of(most):
                text = b"".join(csv_chunks(made)).decode()
            rows = list(csv.DictReader(io.StringIO(text, newline="")))
            self.assertEqual(text.splitlines()[0], "time_s,axis,step,position_steps")
            times = [float(row["time_s"]) for row in rows]
            self.assertEqual(times, sorted(times))
            self.assertTrue(all(len(row["time_s"].partition(".")[2]) == 9 for row in rows))
            for axis in made.axes:
                own = [row for row in rows if row["axis"] == axis.name]
                np.testing.assert_allclose([float(r["time_s"]) for r in own], axis.instants, atol=5.1e-10)
                self.assertEqual([int(r["step"]) for r in own], axis.signs.tolist())
                self.assertEqual([int(r["position_steps"]) for r in own], np.cumsum(axis.signs, dtype=int).tolist())

    def test_a_plan_without_steps_is_a_header(self):
        self.assertEqual(b"".join(csv_chunks(plan(machine(screw_axis())))), b"time_s,axis,step,position_steps\r\n")

    def test_numbers_are_those_of_str(self):
        """Behind a character and ascending; and with either sign, as the last of a line."""
        values = np.array([0, 1, 9, 10, 99, 100, 999, 1000, 12345, 99999999, 123456789012, 10**15 - 1])
        for count in range(1, len(values) + 1):
            some = values[:count]
            rows = np.empty((count, led_words_for(some[-1])), np.uint32)
            put_ascending(rows, some, b"#")
            self.assertEqual(text_of(rows).decode(), "".join(f"#{value}" for value in some.tolist()))
            both = np.concatenate((some, -some))
            rows = np.empty((2 * count, last_words_for(some[-1])), np.uint32)
            put_last(rows, both)
            self.assertEqual(text_of(rows).decode(), "".join(f"{value}\r\n" for value in both.tolist()))


class Vcd(unittest.TestCase):
    def test_the_signals_are_those_of_the_plan(self):
        """Read by another library: every line's level, anywhere in time, agrees with the plan's signals."""
        jump = limits(40.0, 300.0, start=40.0)
        built = machine(
            screw_axis(enable="P2", limits=jump, driver={"direction_setup_us": 900.0, "at_rest": "off"}),
            pair_axis("Reach", 4), coil_axis("Disc", 8, driver={"at_rest": "off", "active": "low"}), coil_axis("Rest", 16),
            blocks=(move(to={"Lift": "0.3", "Reach": "0.2", "Disc": "14"}), move(to={"Lift": "0", "Disc": "-9"}), move(by={"Reach": "-0.3"})),
        )  # fmt: skip
        for most in (3, 100_000):
            made = plan(built)
            with pieces_of(most):
                changes, order = self.read(b"".join(vcd_chunks(made)))
            self.assertEqual(order, sorted(order), "times ascend")
            for axis in made.axes:
                for at in np.linspace(1e-7, made.duration + 0.001, 211):
                    for signal in signals_between(axis, at - 1e-7, at, made.powered_s):
                        seen = [v for t, v in changes[axis.name, signal.key] if t <= round(at * 1e9)][-1]
                        self.assertEqual(seen, signal.level_at(at), (axis.name, signal.key, at))

    def read(self, data: bytes) -> tuple[dict[tuple[str, str], list[tuple[int, int]]], list[int]]:
        names: dict[str, tuple[str, str]] = {}
        changes: dict[tuple[str, str], list[tuple[int, int]]] = {}
        scope, now, times = "", 0, []
        for token in tokenize(io.BytesIO(data)):
            if token.kind is TokenKind.TIMESCALE:
                self.assertEqual((int(token.timescale.magnitude), token.timescale.unit.value), (1, "ns"))
            elif token.kind is TokenKind.SCOPE:
                scope = token.scope.ident
            elif token.kind is TokenKind.VAR:
                names[token.var.id_code] = (scope, token.var.reference)
                changes[scope, token.var.reference] = []
            elif token.kind is TokenKind.CHANGE_TIME:
                now = token.time_change
                times.append(now)
            elif token.kind is TokenKind.CHANGE_SCALAR:
                changes[names[token.scalar_change.id_code]].append((now, int(token.scalar_change.value)))
        self.assertEqual(len(times), len(set(times)), "each time stands once")
        return changes, times

    def test_names_are_made_plain_and_stay_different(self):
        self.assertEqual(scope_names(["A b", "A_b", "Ü-1"]), ["A_b", "A_b_2", "__1"])
        many = machine(*(coil_axis(f"Axis {k}", 0) for k in range(30)))
        names = [
            line.split()[3]
            for line in b"".join(vcd_chunks(plan(many))).decode().splitlines()
            if line.startswith("$var")
        ]
        self.assertEqual(len(set(names)), 120, "identifiers go on beyond the 94 of one character")

    def test_what_is_off_at_rest_is_never_on_where_nothing_moves(self):
        made = plan(machine(coil_axis(driver={"at_rest": "off"}), blocks=(Pause(seconds=2.0),)))
        changes, _times = self.read(b"".join(vcd_chunks(made)))
        self.assertEqual({level for seen in changes.values() for _t, level in seen}, {0})

    def test_the_demo_writes_whole_files(self):
        made = plan(load_example(), "Three bands")
        changes, _times = self.read(b"".join(vcd_chunks(made)))
        self.assertEqual(sum(v for _t, v in changes["Lift", "STEP"][1:]), made.axis("Lift").steps)
        self.assertEqual(b"".join(csv_chunks(plan(load_example(), Routine(name="none")))).count(b"\n"), 1)
