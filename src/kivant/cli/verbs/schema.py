"""``kivant schema``: the JSON Schema of the project file."""

from __future__ import annotations

import argparse

from kivant.cli.say import print_json
from kivant.files import project


def run(_options: argparse.Namespace) -> int:
    """Print it."""
    print_json(project.schema())
    return 0
