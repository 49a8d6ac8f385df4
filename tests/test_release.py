"""What a release says of itself is true: the changelog, the version, and what is installed without the window."""

import shutil
import subprocess
import sys
import tarfile
import tomllib
from pathlib import Path

import pytest

from tests.helpers.tools import tool
from woven_locus.version import __version__

ROOT = Path(__file__).resolve().parents[1]


def test_the_changelog_is_made_of_its_fragments(tmp_path: Path) -> None:
    made = tool("changelog").changelog(ROOT / "changelog.d", __version__)
    assert (ROOT / "CHANGELOG.md").read_text("utf-8") == made, "run make changelog"
    (tmp_path / "x.new.md").write_text("news")
    with pytest.raises(ValueError, match="expected"):
        tool("changelog").changelog(tmp_path, "1")


def test_a_server_needs_no_window() -> None:
    project = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]
    assert not [name for name in project["dependencies"] if name.lower().startswith("pyq")]
    assert any(name.startswith("PyQt6>=") for name in project["optional-dependencies"]["desktop"])
    assert (ROOT / "src" / "woven_locus" / "py.typed").exists()


def test_the_source_archive_holds_all_that_is_kept(tmp_path: Path) -> None:
    """From a copy: setuptools writes beside the source."""
    listed = subprocess.run(
        ["git", "ls-files"], cwd=ROOT, capture_output=True, text=True, check=False
    )
    if listed.returncode:
        pytest.skip("this is no checkout")
    kept = [name for name in listed.stdout.splitlines() if (ROOT / name).exists()]
    copy = tmp_path / "copy"
    for name in kept:
        target = copy / name
        target.parent.mkdir(parents=True, exist_ok=True)
        shutil.copy(ROOT / name, target)
    code = f"from setuptools import build_meta; build_meta.build_sdist({str(tmp_path)!r})"
    subprocess.run([sys.executable, "-c", code], cwd=copy, check=True, capture_output=True)
    (archive,) = tmp_path.glob("*.tar.gz")
    with tarfile.open(archive) as opened:
        held = {name.partition("/")[2] for name in opened.getnames()}
    assert sorted(set(kept) - held) == [".gitignore"]
