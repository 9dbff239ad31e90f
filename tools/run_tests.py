"""Run every test: the window's, and beside them all others with Qt made impossible to import."""

from __future__ import annotations

import argparse
import subprocess
import sys
import time
import unittest
from pathlib import Path

ROOT = Path(__file__).parent.parent
WINDOW = "tests/desktop"


def _names(suite: unittest.TestSuite) -> list[unittest.TestCase]:
    found: list[unittest.TestCase] = []
    for item in suite:
        found.extend(_names(item) if isinstance(item, unittest.TestSuite) else [item])
    return found


def _run(part: str, pattern: str) -> tuple[int, int]:
    """Run one part in this process and return how many tests passed and failed."""
    sys.path.insert(0, str(ROOT))
    if part == "core":
        for module in ("PySide6", "shiboken6"):
            sys.modules[module] = None  # type: ignore[assignment]
    folders = [p for p in sorted((ROOT / "tests").iterdir()) if p.is_dir() and list(p.rglob("test_*.py"))]
    chosen = [p for p in folders if (p == ROOT / WINDOW) == (part == "window")]
    suite = unittest.TestSuite()
    for folder in chosen:
        suite.addTests(unittest.TestLoader().discover(str(folder), top_level_dir=str(ROOT)))
    tests = [test for test in _names(suite) if pattern in test.id()]
    result = unittest.TextTestRunner(verbosity=1).run(unittest.TestSuite(tests))
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    return result.testsRun - failed - len(result.skipped), failed


def main() -> int:
    """Run both parts beside one another, each in a process of its own; the last line counts."""
    parser = argparse.ArgumentParser()
    parser.add_argument("pattern", nargs="?", default="", help="only tests with this in their name")
    parser.add_argument("--coverage", action="store_true")
    parser.add_argument("--part", choices=("core", "window"))
    options = parser.parse_args()
    if options.part:
        passed, failed = _run(options.part, options.pattern)
        print(f"counted {passed} {failed}")
        return 0
    begin = time.monotonic()
    passed = failed = 0
    cover = ["-m", "coverage", "run", "--parallel-mode"] if options.coverage else []
    running = [
        (part, subprocess.Popen(
            [sys.executable, *cover, "-m", "tools.run_tests", "--part", part, options.pattern],
            cwd=ROOT, stdout=subprocess.PIPE, text=True,
        ))
        for part in ("core", "window")
    ]  # fmt: skip
    for part, process in running:
        lines = process.communicate()[0].splitlines()
        print("\n".join(lines[:-1]))
        counted = lines[-1].split() if lines else []
        if process.returncode or counted[:1] != ["counted"]:  # the process died: that is a failure, too
            print(f"the {part} tests ended with status {process.returncode}")
            failed += 1
            continue
        passed, failed = passed + int(counted[1]), failed + int(counted[2])
    if options.coverage and not failed:
        coverage = [sys.executable, "-m", "coverage"]
        subprocess.run([*coverage, "combine", "-q"], cwd=ROOT, check=False)
        failed += subprocess.run([*coverage, "report"], cwd=ROOT, check=False).returncode != 0
    print(f"{time.monotonic() - begin:.0f} s")
    counted_line = f"{passed} passed, {failed} failed"
    print(counted_line)
    (ROOT / "build").mkdir(exist_ok=True)
    (ROOT / "build/tests.txt").write_text(counted_line + "\n")
    return 1 if failed or not passed else 0


if __name__ == "__main__":
    sys.exit(main())
