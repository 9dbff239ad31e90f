"""Attack Kivant and print a table of tries and defects: ``python -m tools.attack``, an hour at the most."""

from __future__ import annotations

import argparse
import random
import sys
import time
from collections.abc import Callable

from tools.attack import boards, clients, editing, files, saving, system, window
from tools.attack.outcome import Outcome

ATTACKS: dict[str, Callable[[random.Random, float], Outcome]] = {
    "damaged project files": files.attack,
    "project files of 64 MB": files.large,
    "kills while saving": saving.attack,
    "kills while editing": editing.attack,
    "floods of a client": clients.attack,
    "idle connections": clients.crowd,
    "hostile boards": boards.attack,
    "what a system refuses": system.attack,
    "signals while exporting": system.signals,
    "a hand that does anything": window.attack,
}
_SHOWN = 5


def main() -> int:
    """Run the attacks; return 1 if anything broke."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--scale", type=float, default=1.0, help="share of the tries; 0.05 is a look of a few minutes")
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--only", default="", help="those whose names hold this")
    options = parser.parse_args()
    broken = False
    print(f"{'attack':<28}{'tries':>8}{'defects':>9}{'s':>8}  worst")
    for name, attack in ATTACKS.items():
        if options.only not in name:
            continue
        begun = time.monotonic()
        outcome = attack(random.Random(options.seed), options.scale)
        took = time.monotonic() - begun
        print(f"{name:<28}{outcome.tries:>8}{len(outcome.defects):>9}{took:>8.0f}  {outcome.worst}", flush=True)
        for defect in outcome.defects[:_SHOWN]:
            print(f"    {defect}")
        broken = broken or bool(outcome.defects)
    return int(broken)


if __name__ == "__main__":
    sys.exit(main())
