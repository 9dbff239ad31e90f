"""Check what no linter does: small modules, honest docstrings, docs and demo files that agree with the code."""

from __future__ import annotations

import ast
import json
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

from kivant.board.standin.commands import WRITTEN
from kivant.core.findings.checks import all_findings
from kivant.core.findings.finding import errors_in
from kivant.files import project
from tools.make_findings_page import PAGE, findings_page

ROOT = Path(__file__).parent.parent
MOST_MODULE_LINES = 400
MOST_FUNCTION_LINES = 45
MOST_METHODS = 21

Definition = ast.FunctionDef | ast.ClassDef


def _sources(folder: str = "src") -> Iterator[tuple[str, str, ast.Module]]:
    for path in sorted((ROOT / folder).rglob("*.py")):
        text = path.read_text()
        yield str(path.relative_to(ROOT)), text, ast.parse(text)


def _sizes() -> Iterator[str]:
    for name, text, tree in _sources():
        lines = len(text.splitlines())
        if lines > MOST_MODULE_LINES:
            yield f"{name} has {lines} lines: split it"
        for node in ast.walk(tree):
            if isinstance(node, ast.FunctionDef) and node.end_lineno:
                begin = node.body[1] if ast.get_docstring(node) and len(node.body) > 1 else node.body[0]
                length = node.end_lineno - begin.lineno
                if length > MOST_FUNCTION_LINES:
                    yield f"{name}: {node.name} has {length} lines: split it"
            if isinstance(node, ast.ClassDef):
                methods = sum(isinstance(item, ast.FunctionDef) for item in node.body)
                if methods > MOST_METHODS:
                    yield f"{name}: {node.name} has {methods} methods: split it"


def _public(tree: ast.Module) -> Iterator[Definition]:
    """Yield the public classes and functions of a module, and the public methods of those classes."""
    for node in tree.body:
        inner = node.body if isinstance(node, ast.ClassDef) and not node.name.startswith("_") else []
        for item in (node, *inner):
            if isinstance(item, ast.FunctionDef | ast.ClassDef) and not item.name.startswith("_"):
                yield item


def _docstrings() -> Iterator[str]:
    for name, _text, tree in _sources():
        if not ast.get_docstring(tree):
            yield f"{name} has no docstring"
        for item in _public(tree):
            qt_override = item.name.endswith(("Event", "event", "Hint")) or item.name.startswith("paint_")
            if not ast.get_docstring(item) and not qt_override:
                yield f"{name}: {item.name} has no docstring"


def _own_raises(function: ast.FunctionDef) -> Iterator[str]:
    """Yield the names of what a function raises by itself, in what it does and not in what it defines."""
    waiting: list[ast.AST] = list(function.body)
    while waiting:
        node = waiting.pop()
        if isinstance(node, ast.Raise) and node.exc is not None:
            raised = node.exc.func if isinstance(node.exc, ast.Call) else node.exc
            yield raised.attr if isinstance(raised, ast.Attribute) else getattr(raised, "id", "")
        if not isinstance(node, ast.FunctionDef | ast.Lambda | ast.ClassDef):
            waiting.extend(ast.iter_child_nodes(node))


def _raises() -> Iterator[str]:
    for name, _text, tree in _sources():
        for item in _public(tree):
            if not isinstance(item, ast.FunctionDef):
                continue
            raised = {error for error in _own_raises(item) if error and error != "NotImplementedError"}
            said = (ast.get_docstring(item) or "").lower()
            if raised and "raise" not in said:
                yield f"{name}: {item.name} raises {', '.join(sorted(raised))} and does not say so"


def _tests() -> Iterator[str]:
    for name, _text, tree in _sources("tests"):
        for node in ast.walk(tree):
            if isinstance(node, ast.Attribute) and node.attr.startswith("_") and not node.attr.startswith("__"):
                own = isinstance(node.value, ast.Name) and node.value.id in ("self", "cls")
                if not own and node.attr not in ("_make", "_replace", "_fields"):
                    yield f"{name}, line {node.lineno}: reaches into the private {node.attr}"
            fixed = isinstance(node, ast.Call) and ast.unparse(node.func) == "time.sleep"
            if fixed and "tests/desktop" not in name and isinstance(node, ast.Call):
                yield f"{name}, line {node.lineno}: sleeps; wait for what is to come"


def _examples() -> Iterator[str]:
    for path in sorted((ROOT / "src/kivant/examples").glob("*.kivant")):
        machine = project.load(path)
        if project.dumps(machine) != path.read_bytes():
            yield f"{path.relative_to(ROOT)} is not as Kivant saves it"
        if errors_in(all_findings(machine)):
            yield f"{path.relative_to(ROOT)} has errors"


def _docs() -> Iterator[str]:
    schema = ROOT / "docs/project.schema.json"
    if not schema.exists() or json.loads(schema.read_text()) != project.schema():
        yield "docs/project.schema.json is old: ./dev kivant schema > docs/project.schema.json"
    if not PAGE.exists() or PAGE.read_text() != findings_page():
        yield "docs/findings.md is old: .venv/bin/python -m tools.make_findings_page"
    protocol = (ROOT / "docs/board-protocol.md").read_text()
    for header in WRITTEN:
        if f"`{header}" not in protocol:
            yield f"docs/board-protocol.md does not describe {header}"
    pages = "".join(p.read_text() for p in [ROOT / "README.md", *(ROOT / "docs").glob("*.md")])
    for picture in sorted((ROOT / "docs/screenshots").glob("*.png")):
        if picture.name not in pages:
            yield f"{picture.relative_to(ROOT)} is on no page"
    architecture = (ROOT / "docs/architecture.md").read_text()
    for folder in sorted({Path(name).parent for name, _text, _tree in _sources()}):
        inner = str(folder).removeprefix("src/kivant").strip("/")
        if inner and f"`{inner}`" not in architecture:
            yield f"docs/architecture.md does not name {inner}"


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
    checks = (_sizes, _docstrings, _raises, _tests, _examples, _docs, _hosts)
    wrong = [line for check in checks for line in check()]
    for line in wrong:
        print(line)
    print("tree: in order" if not wrong else f"tree: {len(wrong)} things to mend")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
