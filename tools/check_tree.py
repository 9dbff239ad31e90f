"""Check what no linter does: small modules, docs and demo files that agree with the code."""

from __future__ import annotations

import ast
import json
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

from kivant.board.standin.commands import WRITTEN
from kivant.core import findings
from kivant.files import project

ROOT = Path(__file__).parent.parent
MOST_MODULE_LINES = 420
MOST_FUNCTION_LINES = 45


def _sizes() -> Iterator[str]:
    for path in sorted((ROOT / "src").rglob("*.py")):
        text = path.read_text()
        lines = len(text.splitlines())
        if lines > MOST_MODULE_LINES:
            yield f"{path.relative_to(ROOT)} has {lines} lines: split it"
        for node in ast.walk(ast.parse(text)):
            if isinstance(node, ast.FunctionDef) and node.end_lineno:
                begin = node.body[1] if ast.get_docstring(node) and len(node.body) > 1 else node.body[0]
                length = node.end_lineno - begin.lineno
                if length > MOST_FUNCTION_LINES:
                    yield f"{path.relative_to(ROOT)}: {node.name} has {length} lines: split it"


def _docstrings() -> Iterator[str]:
    for path in sorted((ROOT / "src").rglob("*.py")):
        tree = ast.parse(path.read_text())
        if not ast.get_docstring(tree):
            yield f"{path.relative_to(ROOT)} has no docstring"
        for node in tree.body:
            public = isinstance(node, ast.ClassDef) and not node.name.startswith("_")
            inner = node.body if public else []
            for item in (node, *inner):
                if not isinstance(item, ast.FunctionDef | ast.ClassDef) or item.name.startswith("_"):
                    continue
                qt_override = item.name.endswith(("Event", "event", "Hint")) or item.name.startswith("paint_")
                if not ast.get_docstring(item) and not qt_override:
                    yield f"{path.relative_to(ROOT)}: {item.name} has no docstring"


def _examples() -> Iterator[str]:
    for path in sorted((ROOT / "src/kivant/examples").glob("*.kivant")):
        machine = project.load(path)
        if project.dumps(machine) != path.read_bytes():
            yield f"{path.relative_to(ROOT)} is not as Kivant saves it"
        if any(f.severity == "error" for f in findings.all_findings(machine)):
            yield f"{path.relative_to(ROOT)} has errors"


def _docs() -> Iterator[str]:
    schema = ROOT / "docs/project.schema.json"
    if not schema.exists() or json.loads(schema.read_text()) != project.schema():
        yield "docs/project.schema.json is old: ./dev kivant schema > docs/project.schema.json"
    protocol = (ROOT / "docs/board-protocol.md").read_text()
    for header in WRITTEN:
        if f"`{header}" not in protocol:
            yield f"docs/board-protocol.md does not describe {header}"
    pages = "".join(p.read_text() for p in [ROOT / "README.md", *(ROOT / "docs").glob("*.md")])
    for picture in sorted((ROOT / "docs/screenshots").glob("*.png")):
        if picture.name not in pages:
            yield f"{picture.relative_to(ROOT)} is on no page"


def _hosts() -> Iterator[str]:
    names = subprocess.run(["git", "ls-files"], cwd=ROOT, capture_output=True, text=True, check=True).stdout
    suspicious = ("--index" + "-url", "--find" + "-links http", "https://py" + "pi", "https://files" + ".py")
    for name in names.splitlines():
        path = ROOT / name
        if path.suffix in (".lock", ".toml", ".txt", ".md", ".py", "") and path.is_file():
            text = path.read_text(errors="replace")
            for words in suspicious:
                if words in text:
                    yield f"{name} names a registry"


def main() -> int:
    """Print everything that is wrong; return the exit status."""
    wrong = [line for check in (_sizes, _docstrings, _examples, _docs, _hosts) for line in check()]
    for line in wrong:
        print(line)
    print("tree: in order" if not wrong else f"tree: {len(wrong)} things to mend")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
