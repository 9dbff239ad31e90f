"""Project files: what is refused and how it is said, and that nothing is lost on the way round."""

import contextlib
import copy
import fcntl
import json
import os
import tempfile
import time
import tracemalloc
import unittest
from decimal import Decimal
from importlib import resources
from pathlib import Path
from unittest import mock

import jsonschema

from kivant.app.document.autosave import Autosave
from kivant.app.document.document import Document, SaveError
from kivant.core.errors import MOST_FAULTS
from kivant.core.machine import OwnSequence, Screw
from kivant.core.path import Path as KeyPath
from kivant.files import json_text, project

EXAMPLES = resources.files("kivant").joinpath("examples")
RIG = EXAMPLES.joinpath("banding-rig.kivant").read_bytes()


def changed(path: str, value: object) -> dict:
    """Return the Banding rig with one key set (or, for `...`, taken out)."""
    document = json.loads(RIG)
    target, keys = document, [int(k) if k.isdigit() else k for k in path.split("/")]
    for key in keys[:-1]:
        target = target[key]
    if value is ...:
        del target[keys[-1]]
    else:
        target[keys[-1]] = value
    return document


class RoundTrip(unittest.TestCase):
    def test_what_was_saved_comes_back_byte_for_byte(self):
        """Loaded and saved unchanged, the demo machines stay what they are."""
        for file in EXAMPLES.iterdir():
            if file.name.endswith(".kivant"):
                self.assertEqual(project.dumps(project.loads(file.read_bytes())), file.read_bytes(), file.name)

    def test_decimals_mean_their_text_and_keep_it(self):
        """0.1 is one tenth; trailing zeros, integers, ratios and foreign data stay as they were written."""
        document = changed(
            "axes/1/travel", [{"stage": "ratio", "ratio": "1024/75"}, {"stage": "screw", "lead": "2.50"}]
        )
        document["x"] = {"shop": {"shelf": 3, "none": None, "deep": [1.25, "é"], "EN": None}}
        document["axes"][1]["x"] = {"bought": "second hand"}
        text = json.dumps(document, ensure_ascii=False).replace('"Lift": 60,', '"Lift": 0.10,')
        machine = project.loads(text.encode())
        self.assertEqual(KeyPath.parse("routines[0].blocks[0].to.Lift").look_up(machine), Decimal("0.1"))
        self.assertEqual(machine.axes[1].travel[1], Screw(lead=Decimal("2.50")))
        again = project.dumps(machine)
        self.assertIn(b'"Lift": 0.10,', again)
        self.assertIn(b'"lead": "2.50"', again)
        self.assertEqual(json.loads(again), json.loads(text))
        self.assertEqual(project.dumps(project.loads(again)), again)

    def test_keys_may_stand_in_any_order_and_are_saved_in_that_of_the_schema(self):
        own = {"Wheel", "Lift", "Reach", "Tilt", *(f"{k:03b}" for k in range(8))}  # their order is the writer's own

        def turned(value):
            if isinstance(value, dict) and not value.keys() <= own:
                return {k: turned(v) for k, v in reversed(value.items())}
            return [turned(v) for v in value] if isinstance(value, list) else value

        self.assertEqual(project.dumps(project.loads(json.dumps(turned(json.loads(RIG))).encode())), RIG)

    def test_the_schema_and_the_reader_agree(self):
        """What the schema refuses the reader refuses, and the demo machines please both."""
        validator = jsonschema.Draft202012Validator(project.schema())
        validator.check_schema(project.schema())
        validator.validate(json.loads(RIG))
        for path, value, _place, _words in BAD_VALUES:
            document = changed(path, value)
            if path.rpartition("/")[2] in ("name", "min", "jerk", "shape") or "travel" in path:
                continue  # these break rules that a schema cannot tell
            self.assertFalse(validator.is_valid(document), path)


BAD_VALUES = [  # key, wrong value, place in the message, what the message says
    ("axes/1/limits/speed", -3, "axes[1].limits.speed", "Expected a number above 0 .*found -3"),
    ("axes/1/limits/speed", "fast", "axes[1].limits.speed", 'Expected a number; found "fast"'),
    ("axes/1/limits/speed", True, "axes[1].limits.speed", "Expected a number; found true"),
    ("axes/1/limits/speed", ..., "axes[1].limits.speed", "The key “speed” is missing"),
    ("axes/1/limits/start_speed", -1, "axes[1].limits.start_speed", "at least 0"),
    (
        "axes/1/limits/jerk",
        -500,
        "axes[1].limits.jerk",
        "at least 1e-09.*found -500",
    ),
    ("axes/1/limits/shape", "s_curve", "axes[1].limits.jerk", "there is no jerk.*Give a jerk, such as"),
    ("axes/1/motor/full_steps_per_rev", 0, "axes[1].motor.full_steps_per_rev", "at least 1"),
    ("axes/1/motor/full_steps_per_rev", 1.5, "axes[1].motor.full_steps_per_rev", "whole number"),
    ("axes/1/motor/winding", "delta", "axes[1].motor.winding", "'unipolar' or 'bipolar'"),
    ("axes/1/driver/kind", "laser", "axes[1].driver", "'coils', 'step_direction', 'pulse_pair'"),
    ("axes/1/driver/microsteps", ..., "axes[1].driver.microsteps", "missing"),
    ("axes/1/driver/lines/STEP", 4, "axes[1].driver.lines.STEP", "text in quotes"),
    ("axes/1/driver/colour", "red", "axes[1].driver.colour", "is unknown.*“x”"),
    ("axes/1/travel/0/lead", "-8", "axes[1].travel[0].lead", "positive decimal number"),
    ("axes/1/travel/0/stage", "chain", "axes[1].travel[0]", "'gear', 'ratio', 'belt', 'screw'"),
    ("axes/1", [], "axes[1]", "an object in braces"),
    ("axes", {}, "axes", "a list in brackets"),
    ("board/tick_hz", 0, "board.tick_hz", "at least 1000"),
    ("routines/0/blocks/0/do", "dance", "routines[0].blocks[0]", "'move', 'each', 'spin', 'pause'"),
    ("routines/0/blocks/0/to/Lift", "sixty", "routines[0].blocks[0].to.Lift", "a number"),
    ("routines/0/blocks/0/to/Lift", 1e300, "routines[0].blocks[0].to.Lift", "between -1e15 and 1e15"),
    ("routines/0/blocks/1/seconds", -1, "routines[0].blocks[1].seconds", "at least 0"),
    ("routines/0/blocks/3/speed_factor", 1.5, "routines[0].blocks[3].speed_factor", "at most 1"),
    ("axes/0/name", "Lift", "axes[1].name", "The axis “Lift” appears twice"),
    ("axes/0/name", "two\nlines", "axes[0].name", "without line breaks"),
    ("axes/0/limits/min", 5, "axes[0].limits.max", None),
]
BROKEN_RULES = [
    ("axes/1/driver/lines/STEP", "P99", "axes[1].driver.lines.STEP", "no line “P99” on the board.*P0, P1"),
    ("axes/1/unit", "deg", "axes[1].travel[0]", "no belt or screw"),
    ("axes/0/unit", "mm", "axes[0].travel", "exactly one belt or screw"),
    ("axes/1/limits/max", -1, "axes[1].limits.max", "below the least"),
    ("axes/1/driver/at_rest", "reduced", "axes[1].driver.reduced_percent", "reduced_percent is missing"),
    (
        "routines/0/blocks/0/to/Arm",
        3,
        "routines[0].blocks[0].to.Arm",
        "no axis “Arm”.*Lift, Reach, Tilt, Wheel",
    ),
    ("routines/0/blocks/0/to", {}, "routines[0].blocks[0]", "names no axis"),
    ("routines/0/blocks/3/to", {"Wheel": 5}, "routines[0].blocks[3].by.Wheel", "also in “to”"),
    ("routines/0/start", {"Arm": 3}, "routines[0].start.Arm", "no axis “Arm”"),
    ("routines/1/name", "Rising spiral", "routines[1].name", "appears twice"),
    (
        "axes/0/travel",
        [{"stage": "ratio", "ratio": "1/999999999999"}] * 30,
        "axes[0].travel",
        "about 1e-3.* between 1e-12 and 1e12",
    ),
    ("board/lines/3", "P0", "board.lines[3]", "appears twice"),
]


class Refusals(unittest.TestCase):
    def test_each_wrong_value_is_named_with_place_and_what_was_expected(self):
        for path, value, place, words in BAD_VALUES + BROKEN_RULES:
            if words is None:
                continue
            with (
                self.subTest(path=path, value=value),
                self.assertRaisesRegex(project.ProjectError, words) as caught,
            ):
                project.loads(json.dumps(changed(path, value)).encode())
            self.assertIn(place, [str(fault.place) for fault in caught.exception.faults])

    def test_a_table_of_ones_own_stands_in_place_of_a_name(self):
        document = changed("axes/0/driver/sequence", {"rows": [1, 2, 4, 8]})
        machine = project.loads(json.dumps(document).encode())
        self.assertEqual(getattr(machine.axes[0].driver, "sequence", None), OwnSequence(rows=(1, 2, 4, 8)))
        self.assertEqual(project.loads(project.dumps(machine)), machine)
        jsonschema.validate(json.loads(project.dumps(machine)), project.schema())
        for value, place, words in (
            ("quarter", "sequence", "'wave', 'full', 'half' or an object in braces; found \"quarter\""),
            (["1"], "sequence", "or an object in braces; found a list"), ({}, "sequence.rows", "“rows” is missing"),
            ({"rows": []}, "sequence.rows", "at least 2 rows; found 0"), ({"rows": [1]}, "sequence.rows", "found 1"),
            ({"rows": [1, 16]}, "sequence.rows[1]", "at most 15"), ({"rows": [1, -1]}, "sequence.rows[1]", "at least 0"),
            ({"rows": [1, "2"]}, "sequence.rows[1]", "a whole number"), ({"rows": [1, True]}, "sequence.rows[1]", "a whole"),
            ({"rows": [1] * 17}, "sequence.rows", "at most 16 entries"), ({"rows": 5}, "sequence.rows", "a list"),
            ({"rows": [1, 2], "name": "mine"}, "sequence.name", "unknown"), (None, "sequence", "found null"),
        ):  # fmt: skip
            with self.assertRaises(project.ProjectError, msg=value) as caught:
                project.loads(json.dumps(changed("axes/0/driver/sequence", value)).encode())
            fault = caught.exception.faults[0]
            self.assertEqual(str(fault.place), f"axes[0].driver.{place}")
            self.assertIn(words, fault.message)

    def test_all_faults_are_told_at_once(self):
        document = changed("axes/1/limits/speed", 0)
        document["board"]["tick_hz"] = "often"
        document["extra"] = 1
        with self.assertRaises(project.ProjectError) as caught:
            project.loads(json.dumps(document).encode())
        self.assertEqual(
            [str(f.place) for f in caught.exception.faults], ["board.tick_hz", "axes[1].limits.speed", "extra"]
        )

    def test_damaged_texts_are_told_with_the_line(self):
        head = b'{"format": "kivant-project", "version": 1'
        table = [
            (RIG[:5000], r"line \d+, column \d+: This is not JSON"),
            (b"", "line 1, column 1: This is not JSON"),
            (b"\xff\xfe\x00", "line 1: The file is not UTF-8"),
            (RIG.replace(b'"P3"', b'"\xc3("'), r"line \d+: The file is not UTF-8"),
            (b"[1, 2]", "not a Kivant project"),
            (b'{"format": "drawing", "version": 1}', 'found "drawing"'),
            (head.replace(b"1", b"2") + b', "new": [}', "line 1, column"),
            (b'{"format": "kivant-project", "version": 2, "new": []}', "version 2; .* up to version 1.*newer Kivant"),
            (b'{"format": "kivant-project", "version": true}', "version"),
            (head + b', "notes": "NaN",\n"x": {"a": NaN}}', "line 2: NaN is not a JSON number"),
            (head + b',\n\n"x": {"a": -Infinity}}', "line 3: -Infinity is not a JSON number"),
            (head + b',\n"x": {"a": "\\ud800"}}', "line 2: An escape sequence makes half a character"),
            (head + b', "notes": "a", "notes": "b"}', "notes: The key “notes” appears twice"),
            (RIG.replace(b'"detent_torque_nm": 0.015', b'"label": "b"'), r"axes\[1\].motor.label: The key “label” appears twice"),
            (head + b', "x": ' + b"[" * 100 + b"]" * 100 + b"}", "line 1: The file is nested deeper than 32 levels"),
            (b'{"x":' * 200_000, "nested deeper than 32 levels"),
            (head + b', "board": {"tick_hz": ' + b"9" * 5000 + b"}}", "line 1: The number has too many digits"),
            (RIG.replace(b'"speed": 40.0', b'"speed": 1e400'), r"axes\[1\].limits.speed: Expected a finite number|at most"),
            (RIG.replace(b'"Lift": 60', b'"Lift": 1e-99999999'), r"to.Lift: Expected a position"),
        ]  # fmt: skip
        for data, words in table:
            with self.subTest(words=words), self.assertRaisesRegex(project.ProjectError, words):
                project.loads(data)

    def test_no_number_is_too_odd_to_be_refused(self):
        """Exponents and lengths beyond all use, wherever they stand: told with their place, never an accident."""
        odd = (
            "1e1000000000000000000",
            "1e-1999999999999999998",
            "-1E+99999999999999999999",
            "7" * 400,
            "9" * 5000,
            "1e400",
        )
        for number in odd:
            for before, after in (('"board": {"max_pulse_hz": ', "}"), ('"x": {"deep": [', "]}")):
                text = '{"format": "kivant-project", "version": 1, "name": "odd",\n' + before + number + after + "}"
                if before.startswith('"x"') and number in ("7" * 400, "1e400"):
                    self.assertEqual(project.loads(project.dumps(project.loads(text.encode()))).name, "odd")
                    continue
                with self.assertRaises(project.ProjectError) as caught:
                    project.loads(text.encode())
                told = str(caught.exception)
                self.assertRegex(told, "line 2|board.max_pulse_hz", number[:30])
                self.assertLess(len(told), 400)

    def test_the_work_is_bounded_whatever_a_file_holds(self):
        """Memory for each value leaves a file of 64 MB within six times its size; faults are not gathered for ever."""
        head, count = '{"format": "kivant-project", "version": 1, ', 30_000
        most = (6 - 2) * json_text.MOST_BYTES / json_text.MOST_VALUES  # two: the bytes and their text
        lists = [f'"x": {{"a": [{",".join([item] * count)}]}}}}' for item in ("[]", "{}", "[1.5]", "1.5", '{"a":1.5}')]
        keys = ",".join(f'"key {k}":{k}.5' for k in range(count))
        for body in (*lists, f'"x": {{{keys}}}}}', f"{keys}}}", f'"axes": [{",".join(["7"] * count)}]}}'):
            data = (head + body).encode()
            values = sum(map(data.count, (b",", b"[", b"{")))
            tracemalloc.start()
            with contextlib.suppress(project.ProjectError):
                project.loads(data)
            peak = tracemalloc.get_traced_memory()[1]
            tracemalloc.stop()
            self.assertLess(peak / values, most, body[:40])
        blocks = ",".join(['{"do": "move", "to": {"Wheel": "far"}}'] * count)
        document = RIG.decode().replace('"blocks": [', f'"blocks": [{blocks},', 1)
        with self.assertRaises(project.ProjectError) as caught:
            project.loads(document.encode())
        self.assertEqual(len(caught.exception.faults), MOST_FAULTS + 1)
        twice = ",".join(f'"key {k // 2}": 1' for k in range(count))
        with self.assertRaisesRegex(project.ProjectError, "(?s)^key 0: .*There are more errors than these"):
            project.loads((head + twice + "}").encode())

    def test_the_limit_that_was_passed_is_named(self):
        table = (
            ("MOST_VALUES", 100, RIG, "more than 100 values.*repeat blocks"),
            ("MOST_BYTES", 2**20, b" " * (2**20 + 1), "larger than 1 MB"),
            ("MOST_BYTES", 2**20, '"\U0001f600'.encode() + b"a" * (2**19 + 9), "larger than 0 MB and has .* such as “\U0001f600”"),
        )  # fmt: skip
        for limit, most, data, words in table:
            with mock.patch.object(json_text, limit, most), self.assertRaisesRegex(project.ProjectError, words):
                project.loads(data)

    def test_what_could_not_be_read_again_is_not_written(self):
        machine = project.loads(RIG)
        with tempfile.TemporaryDirectory() as folder, mock.patch.object(json_text, "MOST_VALUES", 100):
            path = Path(folder) / "rig.kivant"
            path.write_bytes(b"as it was")
            with self.assertRaisesRegex(SaveError, "more than 100 values"):
                Document(machine).save(path)
            self.assertEqual(path.read_bytes(), b"as it was")
            autosave = Autosave(Path(folder))
            self.assertFalse(autosave.keep(machine, None).result())
            self.assertIn("more than 100 values", autosave.trouble)
            autosave.close()

    def test_what_is_no_ordinary_file_is_not_waited_for(self):
        with tempfile.TemporaryDirectory() as folder:
            pipe = Path(folder) / "pipe.kivant"
            os.mkfifo(pipe)
            with self.assertRaisesRegex(project.ProjectError, "not a regular file"):
                project.load(pipe)

    def test_files_that_cannot_be_read_and_files_too_large(self):
        with tempfile.TemporaryDirectory() as folder:
            with self.assertRaisesRegex(project.ProjectError, "cannot be read: No such file"):
                project.load(Path(folder) / "none.kivant")
            with self.assertRaisesRegex(project.ProjectError, "cannot be read: Is a directory"):
                project.load(folder)
            huge = Path(folder) / "huge.kivant"
            with huge.open("wb") as file:
                file.truncate(200 * 2**20)
            with self.assertRaisesRegex(project.ProjectError, "larger than 64 MB"):
                project.load(huge)

    def test_a_hundred_thousand_blocks_are_read(self):
        document = changed("routines", [{"name": "long", "blocks": [{"do": "move", "by": {"Wheel": 1}}] * 100_000}])
        self.assertEqual(len(project.loads(json.dumps(document).encode()).routines[0].blocks), 100_000)


class Saving(unittest.TestCase):
    def test_a_save_that_fails_leaves_the_file_and_nothing_else(self):
        """A full disk in the middle of writing: the old file is whole, the folder has no remains."""
        machine = project.loads(RIG)
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "rig.kivant"
            path.write_bytes(b"old")
            with (
                mock.patch("os.fsync", side_effect=OSError(28, "No space left on device")),
                self.assertRaises(OSError),
            ):
                project.save(machine, path)
            self.assertEqual((path.read_bytes(), list(Path(folder).iterdir())), (b"old", [path]))
            path.chmod(0o640)
            project.save(machine, path)
            self.assertEqual((path.read_bytes(), path.stat().st_mode & 0o777), (RIG, 0o640))

    def test_what_a_killed_writer_has_left_is_cleared(self):
        """Only of the same file, and neither what has just been begun nor what a living writer still writes."""
        with tempfile.TemporaryDirectory() as name:
            folder, now = Path(name), time.time()
            ages = {
                ".rig.kivant.dead.part": 9,
                ".rig.kivant.new.part": 0,
                ".rig.kivant.held.part": 9,
                ".jig.kivant.c.part": 9,
            }
            for part, age in ages.items():
                (folder / part).write_bytes(b"half")
                os.utime(folder / part, (now - age, now - age))
            with (folder / ".rig.kivant.held.part").open() as held:
                fcntl.flock(held, fcntl.LOCK_EX)
                project.save(project.loads(RIG), folder / "rig.kivant")
            left = {path.name for path in folder.iterdir()}
            self.assertEqual(left, {*ages, "rig.kivant"} - {".rig.kivant.dead.part"})

    def test_the_longest_name_and_a_private_file(self):
        """80 characters of three bytes; a file that only its owner could read stays so."""
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / ("€" * 80 + ".kivant")
            project.save(project.loads(RIG), path)
            path.chmod(0o600)
            project.save(project.loads(RIG), path)
            self.assertEqual((path.stat().st_mode & 0o777, path.read_bytes()), (0o600, RIG))

    def test_a_link_is_followed(self):
        with tempfile.TemporaryDirectory() as folder:
            target, link = Path(folder) / "real.kivant", Path(folder) / "link.kivant"
            target.write_bytes(b"old")
            link.symlink_to(target)
            project.save(copy.deepcopy(project.loads(RIG)), link)
            self.assertTrue(link.is_symlink())
            self.assertEqual(target.read_bytes(), RIG)
