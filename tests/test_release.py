"""What a release says of itself is true: the changelog, the version, and what is installed without the window."""

import importlib.util
import tomllib
from pathlib import Path

import pytest

from woven_locus.version import __version__

ROOT = Path(__file__).resolve().parents[1]


def tool(name: str):  # type: ignore[no-untyped-def]
    spec = importlib.util.spec_from_file_location(name, ROOT / "tools" / f"{name}.py")
    assert spec is not None
    assert spec.loader is not None
    found = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(found)
    return found


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
