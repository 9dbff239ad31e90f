"""The command line as a user runs it, in a process of its own."""

import contextlib
import io
import json
import math
import os
import shutil
import signal
import subprocess
import sys
import tempfile
import unittest
from fractions import Fraction
from importlib import resources
from itertools import pairwise
from pathlib import Path
from unittest import mock

from kivant.board.protocol.syntax import spellings
from kivant.board.standin.commands import COMMANDS
from kivant.board.standin.server import BoardServer
from kivant.cli.main import main as command_line
from tests.patience import wait_until

SETTER = str(resources.files("kivant").joinpath("examples", "seedling-setter.kivant"))
RIG = str(resources.files("kivant").joinpath("examples", "banding-rig.kivant"))
BLOCKED = "import sys; sys.modules['PySide6'] = None; from kivant.__main__ import main; sys.exit(main())"


def kivant(*arguments: str, **more) -> subprocess.CompletedProcess:
    """Run Kivant, with the window's toolkit out of reach."""
    command = [sys.executable, "-c", BLOCKED, *arguments]
    return subprocess.run(command, capture_output=True, text=True, timeout=60, check=False, **more)


def start(*arguments: str) -> subprocess.Popen:
    return subprocess.Popen(
        [sys.executable, "-c", BLOCKED, *arguments], stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True,
        preexec_fn=hearing,
    )  # fmt: skip


def hearing() -> None:
    """Hear the end of a terminal, also where the tests themselves are run without one."""
    signal.signal(signal.SIGHUP, signal.SIG_DFL)


class Verbs(unittest.TestCase):
    def setUp(self) -> None:
        temporary = tempfile.TemporaryDirectory()
        self.addCleanup(temporary.cleanup)
        self.folder = Path(temporary.name)

    def project(self, **changes) -> str:
        document = json.loads(Path(RIG).read_text())
        document.update(changes)
        path = self.folder / "mine.kivant"
        path.write_text(json.dumps(document))
        return str(path)

    def test_convert(self):
        """A quarter turn of the demo's wheel: the keys and exact values of the contract."""
        reached = Fraction(730 * 275, 2232)
        done = kivant("convert", RIG, "Wheel", "0.25rev", "--json")
        self.assertEqual(
            (done.returncode, json.loads(done.stdout)),
            (0, {"axis": "Wheel", "unit": "deg", "position": 90.0, "steps_per_unit": "2232/275", "steps_exact": "40176/55",
                 "steps": 730, "actual": float(reached), "error": float(reached - 90)}),
        )  # fmt: skip
        done = kivant("convert", RIG, "Lift", "--json", "--", "-0.5in")
        self.assertEqual(json.loads(done.stdout)["steps"], -2540)
        self.assertIn("730.472727 steps", kivant("convert", RIG, "Wheel", "90").stdout)

    def test_an_internal_error_is_told_as_one(self):
        """With its traceback for whoever mends it, and as an error for a program that reads JSON."""
        out, told = io.StringIO(), io.StringIO()
        with (
            mock.patch("kivant.cli.verbs.convert.convert", side_effect=ZeroDivisionError),
            contextlib.redirect_stdout(out), contextlib.redirect_stderr(told),
        ):  # fmt: skip
            self.assertEqual(command_line(["convert", RIG, "Wheel", "90", "--json"]), 1)
        said = json.loads(out.getvalue())["errors"][0]["message"]
        self.assertRegex(said, r"Internal error: ZeroDivisionError in cli/verbs/convert\.py, line \d+\.")
        self.assertIn(f"error: {said} Take back", told.getvalue())
        self.assertIn("Traceback", told.getvalue())

    def test_routines_in_words(self):
        """Every block once, by its numbers, with the times of its first turn; a name that is none is told."""
        done = kivant("routine", RIG, "--routine", "Scalloped edge", "--json")
        found = json.loads(done.stdout)
        self.assertEqual((done.returncode, found["routine"], len(found["routines"])), (0, "Scalloped edge", 5))
        self.assertEqual([block["index"] for block in found["blocks"]], ["0", "1", "1.0", "1.1"])
        self.assertEqual(found["blocks"][1]["text"], "repeat 12 times")
        self.assertEqual(found["blocks"][0]["name"], "Begin at the rim")
        first, whole = found["blocks"][2], found["blocks"][1]
        self.assertEqual(first["begin_s"], whole["begin_s"])
        self.assertAlmostEqual(whole["end_s"] - whole["begin_s"], 24 * (first["end_s"] - first["begin_s"]), places=6)
        self.assertEqual(whole["end_s"], found["duration_s"])
        told = kivant("routine", RIG)
        self.assertIn("Home: 14.0877 s", told.stdout)
        self.assertIn("    Wheel by 15 deg and Reach by 6 mm together", told.stdout)
        self.assertEqual(kivant("routine", RIG, "--routine", "Nobody").returncode, 1)

    def test_a_routine_that_cannot_be_planned_is_told_and_the_others_are_listed(self):
        spin = {"do": "spin", "speeds": {"Lift": 99}, "seconds": 1}
        rest = {"name": "Rest", "start": {"Lift": 12.5}, "blocks": [{"do": "pause", "seconds": 2}]}
        lines = [{"name": "Fast", "blocks": [spin]}, rest]
        done = kivant("routine", self.project(routines=lines))
        self.assertEqual(done.returncode, 1)
        self.assertRegex(done.stdout, r"Rest: 2.001 s\n +begins with Lift at 12.5 mm\n")
        self.assertIn("routines[0].blocks[0].speeds.Lift", done.stderr)
        found = json.loads(kivant("check", self.project(routines=lines), "--json").stdout)["findings"]
        self.assertEqual((found[0]["code"], found[0]["severity"]), ("spin-impossible", "error"))
        for blocks, words in (
            ([{"do": "call", "routine": "Fast"}], "would call itself"),
            ([{"do": "repeat", "times": 0, "blocks": []}], "at least 1; found 0"),
            ([{"do": "repeat", "times": 10**12, "blocks": []}], "at most 1000000"),
            ([{"do": "each"}], "names no axis"),
            ([{"do": "move", "pose": "Gone"}], "There is no pose “Gone”"),
            ([{"do": "move", "tool": {"x": 1, "y": 2}}], "has no tool"),
            ([{"do": "spin", "speeds": {"Lift": 1}, "turns": 1, "seconds": 2}], "found seconds and turns"),
        ):
            with self.subTest(words):
                done = kivant("plan", self.project(routines=[{"name": "Fast", "blocks": blocks}]))
                self.assertEqual(done.returncode, 1)
                self.assertIn(words, done.stderr)
                self.assertIn("routines[0].blocks[0]", done.stderr)

    def test_every_step_with_the_place_of_the_tool(self):
        """The columns are those of the geometry, and each place is that of the arm by its own angles then."""
        out = self.folder / "steps.csv"
        done = kivant("plan", SETTER, "--routine", "Shake off soil", "--out", str(out), "--geometry")
        self.assertEqual(done.returncode, 0, done.stderr)
        lines = out.read_text().splitlines()
        self.assertEqual(lines[0], "time_s,axis,step,position_steps,tool_x,tool_y,tool_z")
        plain = self.folder / "plain.csv"
        kivant("plan", SETTER, "--routine", "Shake off soil", "--out", str(plain))
        self.assertEqual(
            [line.split(",")[:4] for line in lines], [line.split(",") for line in plain.read_text().splitlines()]
        )
        at = {"Shoulder": 40.0, "Elbow": -60.0}
        for line in lines[1:]:
            _time, axis, _step, position, x, y, z = line.split(",")
            if axis in at:
                at[axis] = int(position) / (3200 * {"Shoulder": 5, "Elbow": 4}[axis] / 360)
            self.assertEqual(z, "50.000000")
        radians = math.radians(at["Shoulder"]), math.radians(at["Shoulder"] + at["Elbow"])
        self.assertAlmostEqual(float(x), 140 * math.cos(radians[0]) + 110 * math.cos(radians[1]), delta=0.2)
        self.assertAlmostEqual(float(y), 140 * math.sin(radians[0]) + 110 * math.sin(radians[1]), delta=0.2)
        for arguments, status, words in (
            (("plan", SETTER, "--geometry"), 2, "give --out PATH.csv"),
            (("plan", SETTER, "--geometry", "--out", str(self.folder / "a.vcd")), 1, "Only a .csv file"),
            (("plan", RIG, "--geometry", "--out", str(self.folder / "a.csv")), 1, "are independent"),
        ):
            done = kivant(*arguments)
            self.assertEqual(done.returncode, status)
            self.assertIn(words, done.stderr)
        self.assertEqual(sorted(p.name for p in self.folder.iterdir()), ["plain.csv", "steps.csv"])

    def test_a_run_of_every_block_counts_as_planned(self):
        blocks = [
            {"do": "each", "to": {"Lift": 3, "Reach": 2}},
            {"do": "repeat", "times": 2, "blocks": [{"do": "spin", "speeds": {"Reach": 30}, "seconds": 0.4},
                                                    {"do": "note", "text": "on"}]},
            {"do": "move", "pose": "Near", "name": "Back"}, {"do": "pause", "seconds": 9, "off": True},
        ]  # fmt: skip
        poses = [{"name": "Near", "at": {"Lift": 1, "Reach": 1}}]
        done = kivant("run", self.project(routines=[{"name": "All", "blocks": blocks}], poses=poses), "--json")
        self.assertEqual(done.returncode, 0, done.stderr)
        counted = {axis["name"]: axis["board_steps"] for axis in json.loads(done.stdout)["axes"]}
        self.assertEqual((counted["Lift"], counted["Reach"]), (200, 80))

    def test_plan_prints_and_writes_nothing_but_whole_files(self):
        out = self.folder / "steps.csv"
        done = kivant("plan", RIG, "--routine", "Three bands", "--out", str(out), "--json")
        found = json.loads(done.stdout)
        self.assertEqual(list(found), ["routine", "duration_s", "axes", "findings"])
        self.assertEqual(
            list(found["axes"][0]),
            [
                "name",
                "steps",
                "final_steps",
                "final_position",
                "peak_speed",
                "peak_acceleration",
                "peak_pulse_hz",
            ],
        )
        self.assertEqual(out.read_bytes().count(b"\r\n"), 1 + sum(axis["steps"] for axis in found["axes"]))
        before = out.read_bytes()
        again = kivant("plan", RIG, "--out", str(out))
        self.assertEqual((again.returncode, out.read_bytes()), (1, before))
        self.assertIn("already exists", again.stderr)
        self.assertEqual(kivant("plan", RIG, "--out", str(out), "--force").returncode, 0)
        self.assertIn(b"$timescale 1 ns $end", self.written("wires.vcd"))

    def written(self, name: str) -> bytes:
        self.assertEqual(kivant("plan", RIG, "--out", str(self.folder / name)).returncode, 0)
        return (self.folder / name).read_bytes()

    def test_check_and_schema(self):
        done = kivant("check", RIG, "--json")
        told = json.loads(done.stdout)["findings"]
        own = [f["code"] for f in told if not f["place"].startswith("routines")]
        self.assertEqual((done.returncode, own), (0, ["coil-current", "ratio-differs-from-sold", "hold-warms"]))
        of_routines = {(f["code"], f["severity"]) for f in told if f["place"].startswith("routines")}
        self.assertEqual(of_routines, {("axis-holds-back", "note"), ("never-reaches-speed", "note")})
        blocks = [{"do": "move", "to": {"Lift": 500}}]
        path = self.project(routines=[{"name": "too far", "blocks": blocks}])
        done = kivant("check", path, "--json")
        found = json.loads(done.stdout)["findings"][0]
        self.assertEqual((done.returncode, list(found)), (1, ["code", "severity", "place", "message", "remedy"]))
        self.assertEqual(found["place"], "routines[0].blocks[0].to.Lift")
        done = kivant("plan", path, "--out", str(self.folder / "a.csv"), "--json")
        self.assertEqual((done.returncode, json.loads(done.stdout)["findings"]), (1, [found]))
        self.assertFalse((self.folder / "a.csv").exists())
        axes = json.loads(Path(RIG).read_text())["axes"]
        axes[1]["driver"]["lines"]["STEP"] = "P0"
        for verb in ("plan", "run"):
            done = kivant(verb, self.project(axes=axes))
            self.assertEqual((done.returncode, done.stdout), (1, ""), "a line that two drivers share forbids to move")
            self.assertRegex(done.stderr, "which Wheel.s A already uses")
        self.assertEqual(json.loads(kivant("schema").stdout)["title"], "Project")

    def test_small_questions_need_no_arrays(self):
        """What is asked again and again is answered without loading NumPy, which takes longer than the answer."""
        for arguments in (["check", RIG], ["convert", RIG, "Wheel", "0.25rev"], ["--version"]):
            blocked = BLOCKED.replace("sys.exit", "sys.modules['numpy'] = None; sys.exit")
            done = subprocess.run([sys.executable, "-c", blocked, *arguments], capture_output=True, check=False)
            self.assertEqual((done.returncode, done.stderr), (0, b""), arguments)

    def test_wires_windings_and_sequences(self):
        """The keys of the contract, in words for people, and what cannot be used told with its place."""
        done = json.loads(kivant("sequence", "1,4,2,8", "--json").stdout)
        self.assertEqual(
            list(done), ["rows", "is", "sense", "start_row", "wires", "active", "turns", "even", "faults", "repair"]
        )
        self.assertEqual((done["is"], done["wires"], done["sense"], done["repair"]), ("wave", "ACBD", 0, [1, 2, 4, 8]))
        self.assertEqual(done["rows"][1], {"word": 4, "angle_deg": 180.0, "torque": 1.0})
        self.assertIn("as it was meant: 1, 2, 4, 8", kivant("sequence", "1", "4", "2", "8").stdout)
        self.assertIn("both ends of a coil", kivant("sequence", "5,10", "--winding", "bipolar").stdout)
        found = json.loads(kivant("wires", RIG, "Tilt", "--json").stdout)["orders"]
        self.assertEqual((len(found), found[0]), (24, {"order": "ABCD", "verdict": "forward", "turns": 1}))
        readings = self.folder / "readings.csv"
        readings.write_text("from,to,ohm\nred,blue,8.1\nblack,green,8.4\n")
        done = json.loads(kivant("windings", str(readings), "--json").stdout)
        self.assertEqual(list(done), ["kind", "windings", "common", "next", "faults"])
        self.assertEqual(done["windings"][1], {"ends": ["black", "green"], "tap": None, "ohm": 8.4})
        readings.write_text("from,to,ohm\na,b,open\na,c,open\na,d,\n")
        self.assertIn("line 4: “” is not what a meter shows", kivant("windings", str(readings)).stderr)
        done = json.loads(kivant("symptoms", RIG, "Wheel", "shudders", "dark_lamp", "--json").stdout)["causes"]
        self.assertEqual([cause["kind"] for cause in done], ["line-dead"])
        self.assertIn("outputs C and D", kivant("symptoms", RIG, "Wheel", "shudders", "--moves", "++0-").stdout)
        done = json.loads(kivant("supplies", RIG, "--json").stdout)
        self.assertEqual([(s["name"], s["axes"]) for s in done["supplies"]][1], ("24 V supply", ["Lift", "Reach"]))
        self.assertAlmostEqual(done["supplies"][2]["greatest_a"], 3.0)
        self.assertAlmostEqual(done["axes"][3]["moving_w"], 36.0)
        self.assertIn("12 V supply: up to 3 A of 4 A for Tilt", kivant("supplies", RIG).stdout)
        done = json.loads(kivant("divide", RIG, "Wheel", "7", "--json").stdout)["positions"]
        self.assertEqual((len(done), done[1]["position"], done[1]["steps"]), (7, "360/7", 417))
        self.assertIn("each way rounded by itself", kivant("divide", RIG, "Lift", "12").stdout)
        done = json.loads(kivant("motor", RIG, "Lift", "--margin", "2", "--json").stdout)
        self.assertEqual(list(done), ["ceiling_full_steps_hz", "curve", "holding_torque_nm", "load_torque_nm",
                                      "inertia_kgm2", "speed", "acceleration", "limited_by", "estimated"])  # fmt: skip
        self.assertAlmostEqual(done["ceiling_full_steps_hz"], 24 / (2 * 2.9e-3 * 1.0))
        self.assertEqual((done["curve"][0][0], done["estimated"], done["limited_by"]), (0.0, [], "board"))
        self.assertIn("limited by the torque", kivant("motor", RIG, "Wheel").stdout)
        self.assertEqual(kivant("motor", RIG, "Wheel", "--margin", "0.5").returncode, 2)
        done = json.loads(kivant("ramp", RIG, "Lift", "40mm", "--shape", "torque", "--json").stdout)
        self.assertEqual(list(done), ["shape", "duration_s", "peak_speed", "pieces", "torque_ratio", "follows",
                                      "slipped_full_steps"])  # fmt: skip
        self.assertEqual((done["shape"], done["follows"], done["slipped_full_steps"]), ("torque", True, 0))
        pieces = done["pieces"]
        self.assertEqual((pieces[0]["begin_s"], pieces[-1]["end_s"]), (0.0, done["duration_s"]))
        self.assertTrue(all(a["end_s"] == b["begin_s"] for a, b in pairwise(pieces)))
        for more, status, words in (
            ((), 0, "trapezoid: 1.133 s, up to 40 mm/s.*the rotor follows"),
            (("--shape", "s_curve"), 1, "there is no jerk"),
            (("--shape", "none", "--fastest"), 0, "gain its speed"),
            (("--shape", "round"), 2, "invalid choice"),
        ):
            done = kivant("ramp", RIG, "Lift", "40", *more)
            self.assertEqual(done.returncode, status, done.stderr)
            self.assertRegex((done.stdout + done.stderr).replace("\n", " "), words)
        done = json.loads(kivant("follow", RIG, "--json").stdout)["axes"]
        self.assertEqual(list(done[0]), ["name", "follows", "slipped_full_steps", "first_slip_s", "greatest_lag_deg",
                                         "final_full_steps"])  # fmt: skip
        planned = json.loads(kivant("plan", RIG, "--json").stdout)["axes"]
        self.assertEqual([axis["final_full_steps"] for axis in done],
                         [axis["final_steps"] / per for axis, per in zip(planned, (2, 8, 16, 1), strict=True)])  # fmt: skip
        text = Path(RIG).read_text().replace('"supply": "5 V adapter"', '"supply_v": 2.0')
        (self.folder / "weak.kivant").write_text(text)
        done = kivant("follow", str(self.folder / "weak.kivant"))
        self.assertEqual(done.returncode, 1)
        self.assertRegex(done.stdout, "Wheel: slips at .* s, by .* full steps in all")
        hasty = json.loads(Path(RIG).read_text())
        hasty["axes"][1]["limits"] |= {"speed": 300.0, "acceleration": 15000.0, "deceleration": 15000.0}
        (self.folder / "hasty.kivant").write_text(json.dumps(hasty))
        done = json.loads(kivant("check", str(self.folder / "hasty.kivant"), "--json").stdout)["findings"]
        lost = [found["place"] for found in done if found["code"] == "steps-lost"]
        self.assertEqual(lost, ["routines[0].blocks[2]", "routines[1].blocks[3]", "routines[2].blocks[4]",
                                "routines[4].blocks[0]"])  # fmt: skip
        done = json.loads(
            kivant("plan", str(self.folder / "hasty.kivant"), "--routine", "Scalloped edge", "--json").stdout
        )
        self.assertNotIn("steps-lost", [found["code"] for found in done["findings"]])
        seen = self.folder / "seen.csv"
        seen.write_text("position,approach,observed\n0,1,0\n90,1,89\n180,1,178\n180,-1,178.6\n90,-1,89.6\n0,-1,0.6\n")
        done = json.loads(kivant("calibrate", RIG, "Wheel", str(seen), "--json").stdout)
        self.assertEqual(list(done), ["scale", "scale_se", "offset", "offset_se", "backlash", "backlash_se", "periodic",
                                      "residual", "outliers", "verdict"])  # fmt: skip
        self.assertAlmostEqual(done["scale"], 89 / 90)
        self.assertAlmostEqual(done["backlash"], 0.6)
        new = self.folder / "calibrated.kivant"
        self.assertEqual(kivant("calibrate", RIG, "Wheel", str(seen), "--out", str(new)).returncode, 0)
        self.assertIn(
            "A file with this name exists", kivant("calibrate", RIG, "Wheel", str(seen), "--out", str(new)).stderr
        )
        calibrated = json.loads(new.read_text())["axes"][0]["calibration"]
        self.assertEqual((calibrated["scale"], calibrated["backlash"]), ("0.988888889", 0.6))
        done = json.loads(kivant("convert", str(new), "Wheel", "360deg", "--json").stdout)
        self.assertEqual(done["steps"], 2955)  # 2921.89 / 0.988888889
        seen.write_text("position,approach,observed\n0,1,0\n90,1,-89\n180,1,-178\n")
        done = json.loads(kivant("calibrate", RIG, "Wheel", str(seen), "--json").stdout)
        self.assertAlmostEqual(done["scale"], -89 / 90)
        self.assertIn("the tool goes the other way", done["verdict"])
        seen.write_text("position,approach,observed\n0,1,0\n90,1,89\n")
        for arguments, words in (
            (("calibrate", RIG, "Wheel", str(seen)), "At least three readings at two places are needed"),
            (("divide", RIG, "Wheel", "0"), "0 parts cannot be made"),
            (("symptoms", RIG, "Wheel", "tired"), "“tired” is not a symptom"),
            (("symptoms", RIG, "Wheel", "hot", "--moves", "x"), "does not describe moves"),
            (("sequence", "1,2,16"), "“16” is not a word of four coils"),
            (("wires", RIG, "Lift"), "a driver that takes pulses"),
            (("windings", str(self.folder)), "cannot be read: Is a directory"),
        ):
            done = kivant(*arguments)
            self.assertEqual((done.returncode, done.stdout), (1, ""))
            self.assertIn(words, done.stderr)

    def test_errors_are_told_without_traceback(self):
        """Status 1 for what is wrong in the input, 2 for wrong usage; never a traceback, never output by halves."""
        broken = self.folder / "broken.kivant"
        broken.write_text('{"format": "kivant-project", "version": 1, "axes": [{}]}')
        table = [
            (1, ("plan", str(broken)), r"axes\[0\]\.name: The key “name” is missing"),
            (1, ("check", str(self.folder / "none.kivant")), "cannot be read: No such file"),
            (1, ("convert", RIG, "Arm", "5"), "no axis “Arm”. The machine has Wheel, Lift, Reach, Tilt"),
            (1, ("convert", RIG, "Lift", "5 bananas"), "“bananas” is not a unit"),
            (1, ("convert", RIG, "Lift", "1e400"), "is not a unit of a position"),
            (1, ("plan", RIG, "--routine", "none"), "Use one of “Rising spiral”"),
            (
                1,
                (
                    "plan",
                    self.project(routines=[{"name": "m", "blocks": [{"do": "move", "to": {"Wheel": 1e13}}]}]),
                ),
                "GB of memory",
            ),
            (1, ("run", RIG, "--board", "nowhere"), "Write host:port"),
            (1, ("run", RIG, "--board", "127.0.0.1:9"), "nothing listens there"),
            (2, ("plan", RIG, "--out", "a.txt"), "ends in .csv or .vcd"),
            (2, ("convert", RIG, "Wheel", "-90deg"), "goes after --"),
            (2, ("polish",), "invalid choice: 'polish'"),
            (2, ("board", "--port", "99999"), "port"),
            (2, ("plan",), "required: file"),
        ]
        for status, arguments, words in table:
            with self.subTest(arguments=arguments):
                done = kivant(*arguments, *(["--json"] if status == 1 else []), cwd=self.folder)
                self.assertEqual(done.returncode, status, done.stderr)
                self.assertRegex(done.stderr, words)
                self.assertNotIn("Traceback", done.stderr)
                if status == 1:
                    error = json.loads(done.stdout)["errors"][0]
                    self.assertTrue(error["message"] and error["message"] in done.stderr)
        self.assertEqual({p.name for p in self.folder.iterdir()}, {"broken.kivant", "mine.kivant"})

    def test_what_the_system_refuses_is_told_in_a_sentence(self):
        """Names that no file can have or that are no text, a loop of links, a full device: nothing half-written."""
        (self.folder / "loop.csv").symlink_to("pool.csv")
        (self.folder / "pool.csv").symlink_to("loop.csv")
        os.mkfifo(self.folder / "pipe.csv")
        odd = os.fsdecode(b"\xff\x1b")
        table = (
            (("plan", RIG, "--out", "n" * 300 + ".csv"), "File name too long"),
            (("plan", RIG, "--out", "loop.csv", "--force"), "symbolic links"),
            (("plan", RIG, "--out", "pipe.csv", "--force"), "not a regular file"),
            (("check", "n" * 5000), "File name too long"),
            (("check", "pipe.csv"), "not a regular file"),
            (("check", odd), "\ufffd\u241b"),
            (("convert", RIG, odd, "5", "--json"), "no axis “\ufffd\u241b”"),
        )
        before = sorted(self.folder.iterdir())
        for arguments, words in table:
            done = kivant(*arguments, cwd=self.folder)
            self.assertEqual((done.returncode, "Traceback" in done.stderr), (1, False), done.stderr)
            self.assertIn(words, done.stderr)
        self.assertEqual(kivant("n" * 5000).returncode, 2)
        self.assertEqual(sorted(self.folder.iterdir()), before)
        shutil.copy(RIG, self.folder / os.fsdecode(b"\xff.kivant"))
        done = kivant("plan", os.fsdecode(b"\xff.kivant"), "--out", os.fsdecode(b"\xff.csv"), cwd=self.folder)
        self.assertIn("written to \ufffd.csv", done.stdout)
        self.assertTrue((self.folder / os.fsdecode(b"\xff.csv")).is_file())
        for verb in (["schema"], ["check", RIG, "--json"]):
            with Path("/dev/full").open("w") as full:
                command = [sys.executable, "-m", "kivant", *verb]
                done = subprocess.run(command, stdout=full, stderr=subprocess.PIPE, check=False)
            self.assertEqual((done.returncode, b"Traceback" in done.stderr), (1, False), verb)
            self.assertIn(b"No space left on device", done.stderr)

    def test_a_request_to_end_leaves_nothing_half_written(self):
        """While a file grows, the process is asked to end, interrupted, or its terminal closes."""
        blocks = [{"do": "move", "to": {"Wheel": turn * 3600.0}} for turn in range(1, 900)]
        path = self.project(routines=[{"name": "long", "blocks": blocks}])
        for number, status in ((signal.SIGTERM, 143), (signal.SIGHUP, 129), (signal.SIGINT, 130)):
            work = start("plan", path, "--out", str(self.folder / "long.csv"))
            try:
                wait_until(lambda: any(p.stat().st_size > 1e6 for p in self.folder.glob(".*.part")))
                work.send_signal(number)
                _out, error = work.communicate(timeout=10)
            finally:
                work.kill()
            self.assertEqual((work.returncode, error), (status, ""))
            self.assertEqual([p.name for p in self.folder.iterdir()], ["mine.kivant"])

    def test_the_window_needs_a_screen_and_says_so(self):
        bare = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")}
        done = subprocess.run(
            [sys.executable, "-m", "kivant", RIG], capture_output=True, text=True, env=bare, check=False
        )
        self.assertEqual(done.returncode, 1)
        self.assertIn("no screen", done.stderr)

    def test_version(self):
        self.assertRegex(kivant("--version").stdout, r"^kivant \d+\.\d+\.\d+\n$")


class Boards(unittest.TestCase):
    CAROUSEL = RIG.replace("banding-rig", "feeder-carousel")

    def test_run_on_a_board_of_its_own_and_on_one_that_is_running(self):
        """The stand-in tells its address in its first line; a run on it counts as planned; Ctrl+C ends it with 0."""
        done = kivant("run", self.CAROUSEL, "--json")
        expected = {"axes": [{"name": "Disc", "planned_steps": 100, "board_steps": 100}]}
        found = json.loads(done.stdout)
        self.assertAlmostEqual(found.pop("duration_s"), 0.403125, places=5)
        self.assertEqual((done.returncode, found), (0, expected))
        board = start("board")
        address = board.stdout.readline().strip()
        self.assertRegex(address, r"^127\.0\.0\.1:\d+$")
        done = kivant("run", self.CAROUSEL, "--board", address)
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertIn("Disc: 100 steps counted, as planned", done.stdout)
        taken = kivant("board", "--port", address.split(":")[1])
        self.assertEqual(taken.returncode, 1)
        self.assertRegex(taken.stderr, "port cannot be opened")
        board.send_signal(signal.SIGINT)
        self.assertEqual((board.wait(5), board.communicate()[0]), (0, ""))

    def test_a_board_shows_what_its_mechanics_make_of_the_steps(self):
        """The tool hangs behind by half its play, at its own scale, and stays there from run to run."""
        path = Path(self.enterContext(tempfile.TemporaryDirectory()), "mechanics.json")
        path.write_text('{"Disc": {"scale": 1.01, "backlash": 0.5}}')
        board = start("board", "--mechanics", str(path))
        address = board.stdout.readline().strip()
        step = json.loads(kivant("convert", self.CAROUSEL, "Disc", "100steps", "--json").stdout)
        gone = float(Fraction(step["actual"]))
        for run in (1, 2):  # a routine begins at 0 again, wherever the tool is
            done = json.loads(kivant("run", self.CAROUSEL, "--board", address, "--json").stdout)
            self.assertAlmostEqual(done["axes"][0]["pointer"], 1.01 * gone * run - 0.25, places=6)
        self.assertIn("the pointer shows", kivant("run", self.CAROUSEL, "--board", address).stdout)
        board.send_signal(signal.SIGINT)
        board.wait(5)
        board.communicate()
        for text, said in (
            ("{", "line 1"),
            ('{"Disc": {"noise": -1}}', "Disc.noise"),
            ("3", "not a list of mechanics"),
        ):
            path.write_text(text)
            refused = kivant("board", "--mechanics", str(path))
            self.assertEqual(refused.returncode, 1)
            self.assertIn(said, refused.stderr)

    def test_a_second_interrupt_ends_a_run_that_the_board_does_not_end(self):
        """On a board that says for ever that it moves: status 1, and it is said that nobody knows where it is."""
        moving = dict.fromkeys(spellings("MOTion:STATe?"), lambda *_: "MOVE,1,1,500,0")
        with mock.patch("kivant.board.standin.dialogue.COMMANDS", COMMANDS | moving), BoardServer() as server:
            work = start("run", self.CAROUSEL, "--json", "--board", server.address)
            try:
                wait_until(lambda: server.board.player.moving)
                work.send_signal(signal.SIGINT)
                wait_until(lambda: server.board.player.state in ("BRAKE", "STOP"))
                self.assertIsNone(work.poll(), "it waits for the board, which says that it moves")
                work.send_signal(signal.SIGINT)
                out, error = work.communicate(timeout=10)
            finally:
                work.kill()
        self.assertEqual((work.returncode, "Traceback" in error), (1, False), error)
        self.assertRegex(error, "given up. It is not known whether the board is still moving. Switch off its power")
        self.assertEqual(len(json.loads(out)["errors"]), 1)
        self.assertFalse(server.board.powered, "the power was cut all the same")

    def test_an_interrupted_run_brakes_and_says_so(self):
        with BoardServer() as server:
            work = start("run", RIG, "--json", "--board", server.address)
            try:
                wait_until(lambda: server.board.player.elapsed_s > 0.3)
                os.kill(work.pid, signal.SIGINT)
                out, error = work.communicate(timeout=10)
            finally:
                work.kill()
        self.assertEqual(work.returncode, 1, error)
        self.assertTrue(json.loads(out)["stopped"])
        self.assertNotIn("Traceback", error)
