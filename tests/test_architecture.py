"""What holds for the code as a whole: sizes, names of others, docstrings that promise."""

import ast
import re
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
# Migrations are left out: one is a list of tables as they were, and is never changed again.
SOURCES = sorted(p for p in (ROOT / "src").rglob("*.py") if p.parent.name != "versions")
LONGEST_MODULE = 500
LONGEST_FUNCTION = 60


@pytest.mark.parametrize("path", SOURCES, ids=lambda p: str(p.relative_to(ROOT / "src")))
def test_modules_and_functions_stay_small(path):
    text = path.read_text("utf-8")
    assert len(text.splitlines()) <= LONGEST_MODULE
    for node in ast.walk(ast.parse(text)):
        if isinstance(node, ast.FunctionDef):
            body = node.body[1:] if ast.get_docstring(node) else node.body
            length = (body[-1].end_lineno - body[0].lineno + 1) if body else 0
            assert length <= LONGEST_FUNCTION, f"{node.name} has {length} lines"


def test_core_has_no_clock_file_or_randomness():
    banned = {"time", "random", "os", "pathlib", "io", "logging", "datetime", "secrets"}
    for path in (ROOT / "src/yardtoll/core").rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            names = []
            if isinstance(node, ast.Import):
                names = [alias.name for alias in node.names]
            elif isinstance(node, ast.ImportFrom):
                names = [node.module or ""]
            assert not banned & {name.split(".")[0] for name in names}, path.name


def test_the_lock_names_hashes_and_no_address():
    lock = (ROOT / "requirements.lock").read_text("utf-8")
    pinned = re.findall(r"^[a-z0-9][a-z0-9._-]*==", lock, re.MULTILINE)
    assert len(pinned) > 20
    assert lock.count("--hash=sha256:") > len(pinned)
    assert "http" not in lock and "index-url" not in lock


def test_every_picture_the_readme_shows_is_there():
    readme = (ROOT / "README.md").read_text("utf-8")
    linked = set(re.findall(r"\((docs/[^)#]+|[A-Z]+(?:\.md)?)\)", readme))
    assert len([found for found in linked if found.endswith(".png")]) >= 10
    for target in linked:
        assert (ROOT / target).exists(), target


def test_what_the_readme_shows_of_the_shell_is_what_it_prints(capsys):
    from yardtoll.cli import main

    readme = (ROOT / "README.md").read_text("utf-8")
    shown = re.search(r"\$ \.venv/bin/yardtoll (.+)\n((?:.+\n)+?)```", readme)
    arguments = [str(ROOT / a) if a.startswith("examples/") else a for a in shown[1].split()]
    with pytest.raises(SystemExit):
        main(arguments)
    assert capsys.readouterr().out == shown[2]
