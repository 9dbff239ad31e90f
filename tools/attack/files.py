"""Damaged project files: whatever bytes one holds, it is read, or refused with a `ProjectError`, within bounds."""

from __future__ import annotations

import random
import subprocess
import sys
import tempfile
import time
from importlib import resources
from pathlib import Path

from kivant.files import json_text, project
from tools.attack.outcome import Outcome

_TOKENS = (
    b"1e1000000000000000000", b"1e-1999999999999999998", b"9" * 400, b"7" * 5000, b"NaN", b"-Infinity", b"1e400", b"-0",
    b"null", b"true", b'""', b"[]", b"{}", b"[[[[", b'"\\ud800"', b'"\xff"', b'"\x00"', b'"<b>x</b>"', b"{", b"]", b",",
    b'"x"', b'"a":1,"a":2', b"0.1", b"1e15", b"-1e-30", b'"8/0"', b'"0"', b"\xef\xbb\xbf", b"\\", b'"',
)  # fmt: skip
_HEAD = b'{"format": "kivant-project", "version": 1, '
_MOST_S, _MOST_BYTES_A_BYTE = 10.0, 6.0
_VICTIM = """
import re, sys
from pathlib import Path
from kivant.files import project
def used(): return int(re.search(r"VmHWM:\\s*(\\d+)", Path("/proc/self/status").read_text())[1])  # KB, the most so far
before = used()
try: project.load(sys.argv[1])
except project.ProjectError: pass
print(used() - before)
"""


def damaged(data: bytes, chance: random.Random) -> bytes:
    """Return a file with a few damages: cuts, doubled pieces, odd tokens, and single bits."""
    for _ in range(chance.choice((1, 1, 1, 2, 5))):
        at, end = sorted(chance.randrange(len(data) + 1) for _ in range(2))
        match chance.randrange(5):
            case 0:
                data = data[:at]
            case 1:
                data = data[:at] + data[min(at + chance.randrange(40), end) :]
            case 2:
                data = data[:at] + chance.choice(_TOKENS) + data[at + chance.randrange(12) :]
            case 3:
                data = data[:end] + data[at : at + 200] + data[end:]
            case _:
                data = data[:at] + bytes([data[at] ^ 1 << chance.randrange(8)]) + data[at + 1 :] if at < end else data
        data = data or b"{"
    return data


def attack(chance: random.Random, scale: float) -> Outcome:
    """Read damaged files; what can be read must come back the same from what is saved."""
    outcome = Outcome()
    examples = resources.files("kivant").joinpath("examples")
    whole = [file.read_bytes() for file in examples.iterdir() if file.name.endswith(".kivant")]
    slowest = 0.0
    for _ in range(max(round(20_000 * scale), 1)):
        data = damaged(chance.choice(whole), chance)
        begun, defect = time.monotonic(), ""
        try:
            machine = project.loads(data)
            if project.loads(project.dumps(machine)) != machine:
                defect = "saved and read again it is another machine"
        except project.ProjectError:
            pass
        except BaseException as error:
            defect = f"{error!r}"
        slowest = max(slowest, time.monotonic() - begun)
        outcome.check(not defect, f"{defect[:200]}: {data[:60]!r} …")
    outcome.worst = f"{slowest * 1e3:.0f} ms"
    return outcome


def large(_chance: random.Random, _scale: float) -> Outcome:
    """Read files of 64 MB, each in a process of its own: within 10 s and six times their size, plus the machine."""
    outcome, worst_s, worst_share = Outcome(), 0.0, 0.0
    with tempfile.TemporaryDirectory() as folder:
        for name, begin, item, end in (
            ("empty lists", b'"axes": [', b"[]", b"]}"), ("wrong axes", b'"axes": [', b"7", b"]}"),
            ("own data", b'"x": {"a": [', b'{"a": 1.5}', b"]}}"), ("one name", b'"name": "', b"a" * 1000, b'"}'),
            ("wide characters", '"name": "\U0001f600'.encode(), b"a" * 1000, b'"}'),
            ("unknown", b'"k": [', b'"s"', b"]}"),
        ):  # fmt: skip
            for spaced in (False, True):
                gap = b" " * 150 if spaced else b""
                joint = b"" if begin.rstrip(b"\xf0\x9f\x98\x80").endswith(b'"') else b"," + gap
                count = (json_text.MOST_BYTES - 200) // len(item + joint)
                file = Path(folder) / "large.kivant"
                file.write_bytes(_HEAD + begin + joint.join([item] * count) + end)
                begun = time.monotonic()
                done = subprocess.run(
                    [sys.executable, "-c", _VICTIM, str(file)], capture_output=True, text=True, check=False
                )
                took_s = time.monotonic() - begun
                share = int(done.stdout or 1 << 40) * 1024 / file.stat().st_size
                worst_s, worst_share = max(worst_s, took_s), max(worst_share, share)
                within = took_s <= _MOST_S and share <= _MOST_BYTES_A_BYTE
                outcome.check(within, f"{name}: {took_s:.1f} s, {share:.1f} bytes a byte {done.stderr[-200:]}")
    outcome.worst = f"{worst_s:.1f} s, {worst_share:.1f} bytes a byte"
    return outcome
