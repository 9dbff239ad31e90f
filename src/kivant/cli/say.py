"""What the command line tells people (on standard error) and programs (JSON on standard output)."""

from __future__ import annotations

import contextlib
import json
import sys
from typing import TYPE_CHECKING, Any

from kivant.core.errors import KivantError, printable

if TYPE_CHECKING:
    from kivant.core.findings.finding import Finding

WRONG_USAGE = 2


def say(text: str) -> None:
    """Print a line for a person; where nobody can read it, go on."""
    with contextlib.suppress(OSError):
        print(printable(text), file=sys.stderr)


def print_json(value: Any) -> None:
    """Print one JSON object; escaped where the output cannot hold its characters."""
    text = json.dumps(value, indent=2, ensure_ascii=False)
    try:
        text.encode(getattr(sys.stdout, "encoding", None) or "utf-8")
    except UnicodeEncodeError:
        text = json.dumps(value, indent=2)
    print(text)


def show_findings(findings: tuple[Finding, ...]) -> None:
    """Tell a person what was found."""
    for finding in findings:
        say(f"{finding.severity}: {finding.place}: {finding.message} {finding.remedy}")


def fail(error: KivantError, *, as_json: bool, findings: tuple[Finding, ...] = ()) -> int:
    """Tell what is wrong, with the findings behind it, and return the exit status for it."""
    for fault in error.faults:
        say(f"error: {fault}")
    if as_json:
        from kivant.app import summary

        found = {"errors": summary.faults(error.faults)}
        if findings:
            found["findings"] = summary.findings(findings)
        print_json(found)
    return 1
