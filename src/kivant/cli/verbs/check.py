"""``kivant check``: what needs attention in a machine."""

from __future__ import annotations

import argparse

from kivant.app import summary
from kivant.cli.say import print_json
from kivant.core.findings.checks import all_findings
from kivant.core.findings.finding import errors_in
from kivant.files import project


def run(options: argparse.Namespace) -> int:
    """Print all findings; the status is 1 if one of them is an error."""
    found = all_findings(project.load(options.file))
    if options.json:
        print_json({"findings": summary.findings(found)})
    else:
        for finding in found:
            print(f"{finding.severity}: {finding.place}: {finding.message} {finding.remedy} [{finding.code}]")
        if not found:
            print("no problems found")
    return 1 if errors_in(found) else 0
