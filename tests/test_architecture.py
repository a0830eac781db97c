"""What holds for the code as a whole: sizes, names of others, docstrings that promise."""

import ast
import re
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
# Migrations are left out: one is a list of tables as they were, and is never changed again.
SOURCES = sorted(p for p in (ROOT / "src").rglob("*.py") if p.parent.name != "versions")
TREES = {path: ast.parse(path.read_text("utf-8")) for path in (ROOT / "src").rglob("*.py")}
LONGEST_MODULE = 500
LONGEST_FUNCTION = 60


def test_modules_and_functions_stay_small():
    long = []
    for path in SOURCES:
        text = path.read_text("utf-8")
        if len(text.splitlines()) > LONGEST_MODULE:
            long.append(path.name)
        for node in ast.walk(TREES[path]):
            if isinstance(node, ast.FunctionDef):
                body = node.body[1:] if ast.get_docstring(node) else node.body
                length = (body[-1].end_lineno - body[0].lineno + 1) if body else 0
                if length > LONGEST_FUNCTION:
                    long.append(f"{path.name}: {node.name} has {length} lines")
    assert long == []


def modules():
    """Every module's name with its tree."""
    for path in sorted((ROOT / "src").rglob("*.py")):
        name = ".".join(path.relative_to(ROOT / "src").with_suffix("").parts)
        yield name.removesuffix(".__init__"), TREES[path]


def imports_of(tree, known):
    """Modules of the program that one imports, wherever in it: also late, also for types only."""
    for node in ast.walk(tree):
        if isinstance(node, ast.ImportFrom):
            for alias in node.names:
                whole = f"{node.module}.{alias.name}"
                yield whole if whole in known else node.module
        elif isinstance(node, ast.Import):
            yield from (alias.name for alias in node.names)


def test_no_module_comes_back_to_itself_by_its_imports():
    trees = dict(modules())
    graph = {name: set(imports_of(tree, trees)) & set(trees) for name, tree in trees.items()}
    while True:  # what imports nothing is in no circle; nor is what imports only such modules
        leaves = [name for name, needed in graph.items() if not needed - {name}]
        if not leaves:
            break
        for leaf in leaves:
            del graph[leaf]
        for needed in graph.values():
            needed.difference_update(leaves)
    assert sorted(graph) == []


OUTSIDE_KINDS = sorted(
    path
    for path in (ROOT / "src").rglob("*.py")
    if not {"methods", "kinds", "versions"} & set(path.relative_to(ROOT / "src").parts)
)


def test_no_method_and_no_kind_of_run_is_named_outside_their_rooms():
    """A new kind of test would have to be added there: traits and kinds answer instead."""
    from yardtoll.core.methods import METHODS, Ending, Flow

    traits = {f"{kind.__name__}.{member.name}" for kind in (Flow, Ending) for member in kind}
    found = []
    for path in OUTSIDE_KINDS:
        for node in ast.walk(TREES[path]):
            named = isinstance(node, ast.Constant) and node.value in METHODS
            switched = isinstance(node, ast.Attribute) and ast.unparse(node) in traits
            kind = isinstance(node, ast.ImportFrom) and re.search(
                r"review\.kinds\.(?!solar|kind$)", node.module or ""
            )
            if named or switched or kind:
                found.append(f"{path.relative_to(ROOT)}:{node.lineno}: {ast.unparse(node)}")
    assert found == []


def test_core_has_no_clock_file_or_randomness():
    banned = {"time", "random", "os", "pathlib", "io", "logging", "datetime", "secrets"}
    for path in (ROOT / "src/yardtoll/core").rglob("*.py"):
        for node in ast.walk(TREES[path]):
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
