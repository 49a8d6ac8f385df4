"""The documentation: it builds without a warning, its commands run in order, and Help finds its pages."""

import re
import shlex
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from woven_locus.cli.main import main
from woven_locus.ui.actions.table import ACTIONS
from woven_locus.ui.guide import PAGES, guide_folder
from woven_locus.ui.session.stages import Stage

ROOT = Path(__file__).parents[1]
WITH_COMMANDS = sorted(
    page for page in (ROOT / "docs").rglob("*.md") if "```sh\n" in page.read_text("utf-8")
)


def test_the_site_builds_without_a_warning(tmp_path: Path) -> None:
    done = subprocess.run(
        [sys.executable, "-m", "mkdocs", "build", "--strict", "-q", "-d", str(tmp_path / "site")],
        cwd=ROOT,
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 0, done.stderr
    site = tmp_path / "site"
    options = (site / "reference" / "options.html").read_text("utf-8")
    assert "--fit" in options
    keys = (site / "reference" / "keys.html").read_text("utf-8")
    assert all(action.key in keys for action in ACTIONS if action.key)
    assert "def lay_road" in (site / "python.html").read_text("utf-8") or "lay_road(" in (
        site / "python.html"
    ).read_text("utf-8")


@pytest.mark.parametrize("page", WITH_COMMANDS, ids=lambda page: page.stem)
def test_every_command_of_a_page_runs_in_its_order(
    page: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(tmp_path)
    blocks = re.findall(r"```sh\n(.*?)```", page.read_text("utf-8"), re.S)
    lines = [line for block in blocks for line in block.splitlines() if line.strip()]
    assert lines
    for line in lines:
        words = shlex.split(line)
        assert words[0] == "woven-locus", line
        may_be_no = words[-2:] == ["||", "true"]
        words = words[1:-2] if may_be_no else words[1:]
        if ">" in words:
            words = words[: words.index(">")]
        code = main(words)
        assert code in ((0, 1) if may_be_no else (0,)), line


def test_there_are_pages_with_commands() -> None:
    assert {"tutorial", "build-server", "merge"} <= {page.stem for page in WITH_COMMANDS}


def test_every_stage_has_its_page_in_the_guide() -> None:
    assert set(PAGES) == set(Stage)
    folder = guide_folder()
    assert folder is not None
    for name in PAGES.values():
        text = (folder / name).read_text("utf-8")
        for picture in re.findall(r"!\[[^]]*\]\(([^)]+)\)", text):
            assert (folder / picture).is_file(), picture


def test_the_links_of_the_readme_lead_somewhere() -> None:
    text = (ROOT / "README.md").read_text("utf-8")
    targets = re.findall(r"\]\((?!http)([^)#]+)", text)
    assert targets
    assert [target for target in targets if not (ROOT / target).exists()] == []
    assert shutil.which("woven-locus") or Path(sys.executable).with_name("woven-locus").exists()
