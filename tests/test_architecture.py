"""The walls of the house: the contracts hold, and they do fail when something is wrong."""

import ast
import importlib
import inspect
import pkgutil
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

import woven_locus

ROOT = Path(__file__).parents[1]
ROOMS = ("core", "files", "document")


def lint(folder: Path) -> subprocess.CompletedProcess[str]:
    command = [str(Path(sys.executable).with_name("lint-imports")), "--no-cache"]
    return subprocess.run(command, cwd=folder, capture_output=True, text=True, check=False)


@pytest.fixture
def copy(tmp_path: Path) -> Path:
    """The package elsewhere, where a bad import may be planted."""
    shutil.copytree(ROOT / "src" / "woven_locus", tmp_path / "woven_locus")
    shutil.copy(ROOT / "pyproject.toml", tmp_path)
    return tmp_path


def test_the_contracts_hold() -> None:
    done = lint(ROOT)
    assert done.returncode == 0, done.stdout


@pytest.mark.parametrize(
    ("module", "line"),
    [
        ("core/plan.py", "from woven_locus.files import runs"),
        ("core/plan.py", "import PyQt6.QtCore"),
        ("core/plan.py", "import os"),
        ("document/routes.py", "import woven_locus.ui.theme"),
        ("files/runs.py", "import woven_locus.document"),
        ("core/ways/roads.py", "from woven_locus.core.plan import Plan"),
        ("ui/session/pointer.py", "from woven_locus.ui.session.session import Session"),
    ],
)
def test_a_planted_import_is_found(copy: Path, module: str, line: str) -> None:
    path = copy / "woven_locus" / module
    path.write_text(path.read_text() + f"\n{line}\n")
    done = lint(copy)
    assert done.returncode == 1, done.stdout
    assert "BROKEN" in done.stdout


def test_everything_but_the_interface_works_without_qt() -> None:
    code = """
import importlib, pkgutil, sys
sys.modules["PyQt6"] = None
import woven_locus
for found in pkgutil.walk_packages(woven_locus.__path__, "woven_locus."):
    if not found.name.startswith(("woven_locus.ui", "woven_locus.__main__")):
        importlib.import_module(found.name)
"""
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr


# --- the house's own budgets -------------------------------------------------------------------

MODULE, CLASS, FUNCTION = 400, 250, 60
# What is longer, and why it may be.
LONGER = {
    "ui/theme.py _style_sheet": "one text",
    # A kernel's inner loop is one function: calls between two of them cost what row 1 has no room for.
    "core/kernels/astar.py search": "kernel",
    "core/kernels/buckets.py spread": "kernel",
    "core/kernels/cuts.py least_cut": "kernel",
    "core/kernels/exploring.py explore": "kernel",
    "core/kernels/detours.py search_around": "kernel",
    "core/kernels/groups.py regroup": "kernel",
    "core/kernels/groups.py split_parts": "kernel",
    "core/kernels/journeys.py search_graph": "kernel",
    "core/kernels/junctions.py update_graph": "kernel",
    "core/kernels/trip_ways.py reach": "kernel",
    "core/kernels/lanes.py search_lanes": "kernel",
    "core/kernels/laying.py lay": "kernel",
}


def lengths(source: str, name: str) -> dict[str, tuple[int, int]]:
    """(lines, allowed) of a module and of the classes and functions in it, by name."""
    found = {name: (len(source.splitlines()), MODULE)}
    for node in ast.walk(ast.parse(source)):
        allowed = {ast.ClassDef: CLASS, ast.FunctionDef: FUNCTION}.get(type(node))
        if allowed is not None:
            lines = node.end_lineno - node.lineno + 1  # type: ignore[attr-defined]
            found[f"{name} {node.name}"] = (lines, allowed)  # type: ignore[attr-defined]
    return found


def test_the_house_keeps_to_its_budgets() -> None:
    root = ROOT / "src" / "woven_locus"
    found: dict[str, tuple[int, int]] = {}
    for path in root.rglob("*.py"):
        found |= lengths(path.read_text("utf-8"), path.relative_to(root).as_posix())
    over = {name for name, (lines, allowed) in found.items() if lines > allowed}
    assert over - LONGER.keys() == set()
    assert LONGER.keys() - over == set(), "these keep to the budget and need no exception"


def test_a_file_of_tests_or_of_a_bench_is_no_longer_than_a_module_may_be() -> None:
    files = [
        path
        for folder in ("tests", "benchmarks", "tools")
        for path in (ROOT / folder).rglob("*.py")
    ]
    assert len(files) > 100
    assert [path.name for path in files if len(path.read_text("utf-8").splitlines()) > MODULE] == []


def test_a_function_that_is_too_long_is_found() -> None:
    body = "\n".join(["    pass"] * FUNCTION)
    assert lengths(f"def f():\n{body}\n", "m.py")["m.py f"] == (FUNCTION + 1, FUNCTION)


def test_all_that_is_public_says_what_it_is() -> None:
    """In core, files and document; what overrides a documented method need not say it again."""
    silent = []
    for found in pkgutil.walk_packages(woven_locus.__path__, "woven_locus."):
        if not found.name.startswith(tuple(f"woven_locus.{room}" for room in ROOMS)):
            continue
        module = importlib.import_module(found.name)
        parts = [(found.name, module)]
        for name, item in vars(module).items():
            if name.startswith("_") or getattr(item, "__module__", "") != found.name:
                continue
            if inspect.isfunction(item) or inspect.isclass(item):
                parts.append((f"{found.name}.{name}", item))
            if inspect.isclass(item):
                own = {k: v for k, v in vars(item).items() if not k.startswith("_")}
                parts += [
                    (f"{found.name}.{name}.{key}", getattr(item, key))
                    for key, value in own.items()
                    if inspect.isfunction(value) or isinstance(value, (property, classmethod))
                ]
        silent += [name for name, item in parts if not inspect.getdoc(item)]
    assert silent == []
