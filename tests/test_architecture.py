"""The walls of the house: the contracts hold, and they do fail when something is wrong."""

import shutil
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]


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
