"""Write docs/findings.md from the table of findings."""

from __future__ import annotations

import re
import sys
from pathlib import Path

from kivant.core.findings.checks import FINDINGS, IN_PLANS

PAGE = Path(__file__).parent.parent / "docs/findings.md"

_HEAD = """# Findings

What Kivant checks, by the code that `kivant check --json` prints. An *error* forbids a run, a *warning* says that a
machine will not do what is wished, a *note* is worth knowing. Words in braces stand for the figures of the case. This
page is made from the table in `core/findings` by `python -m tools.make_findings_page`.

| code | severity | looks at | what is checked | message | remedy | Kivant can fix it |
| --- | --- | --- | --- | --- | --- | --- |
"""


def findings_page() -> str:
    """Return the page."""
    rows = []
    for kind in (*FINDINGS.values(), *IN_PLANS):
        cells = [f"`{kind.code}`", kind.severity, kind.subject, kind.title]
        # A text that is one figure only is made by the check itself.
        texts = ["as the case is" if re.fullmatch(r"\{\w+\}", text) else text for text in (kind.message, kind.remedy)]
        rows.append(f"| {' | '.join([*cells, *texts, 'yes' if kind.mend else 'no'])} |\n")
    return _HEAD + "".join(rows)


def main() -> int:
    """Write the page."""
    PAGE.write_text(findings_page())
    print(PAGE)
    return 0


if __name__ == "__main__":
    sys.exit(main())
