"""Measure every speed claim side by side in one process and print the ratios.

Run it with ``.venv/bin/python -m benchmarks``. A ratio is the best of several rounds of both sides in turn.
"""

from __future__ import annotations

import os

from benchmarks import planning, records, rotors, steps, window

MEASURES = (
    steps.step_instants, steps.shapes, steps.python_loop,
    planning.planning, planning.small, planning.shaped, planning.programs, planning.held,
    planning.straight_lines, records.traces, records.hearing, records.verbs, records.export,
    window.playhead, window.lanes, window.replanning, window.dragging, window.tool, window.start,
    rotors.rotors, rotors.stall_maps,
)  # fmt: skip


def main() -> None:
    """Print the table."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    print(f"{'claim':<64} {'Kivant':>13} {'compared with':>13} {'ratio':>8}   wanted")
    for measure in MEASURES:
        measure()


if __name__ == "__main__":
    main()
