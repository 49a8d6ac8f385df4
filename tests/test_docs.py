"""The documentation: it builds without a warning, its commands run in order, and Help finds its pages."""

import re
import shlex
import shutil
import subprocess
import sys
from pathlib import Path

import pytest
from PIL import Image

from woven_locus import api
from woven_locus.cli.main import main
from woven_locus.demo import open_demo
from woven_locus.files import ascii_grid, plan_json
from woven_locus.ui.actions.table import ACTIONS
from woven_locus.ui.guide import PAGES, guide_folder
from woven_locus.ui.session.stages import Stage

ROOT = Path(__file__).parents[1]
WITH_COMMANDS = sorted(
    page
    for page in (ROOT / "README.md", *(ROOT / "docs").rglob("*.md"))
    if re.search(r"^woven-locus (?!serve|integrate)", page.read_text("utf-8"), re.M)
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


# What is not run here, and where it is: it waits for a client, changes the desktop, needs a cluster, or answers of a game.
ELSEWHERE = ("serve", "integrate", "--scheduler", "--check")


def _commands(page: Path) -> list[list[str]]:
    """The command lines of a page in their order, without what is said beside them."""
    found = []
    for block in re.findall(r"```[a-z]*\n(.*?)```", page.read_text("utf-8"), re.S):
        for line in block.splitlines():
            if line.startswith("woven-locus "):
                text = re.split(r"\s{2,}|\s#\s|\s>\s|\s\|\|\s", line)[0]
                found.append(shlex.split(text)[1:])
    return [words for words in found if not set(words) & set(ELSEWHERE)]


@pytest.fixture
def sandbox(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """The files that the pages speak of."""
    monkeypatch.chdir(tmp_path)
    vale, defence = open_demo(), open_demo("thornmoth-pass")
    for name in ("valley", "base", "before", "levels/valley"):
        path = tmp_path / f"{name}.plan.json"
        path.parent.mkdir(exist_ok=True)
        plan_json.save(vale, path)
    plan_json.save(defence, tmp_path / "pass.plan.json")
    for name, cell in (("ours", (8, 18)), ("theirs", (40, 12)), ("after", (40, 12))):
        plan = open_demo()
        api.place(plan, "spring-house", cell, when="2031-01-01T08:00:00+00:00")
        plan_json.save(plan, tmp_path / f"{name}.plan.json")
    assert vale.heights is not None
    ascii_grid.save(vale.heights, vale.spec, tmp_path / "hills.asc")
    Image.new("RGB", (vale.spec.cols, vale.spec.rows), "#3366AA").save(tmp_path / "map.png")
    trials = (ROOT / "docs" / "guide" / "trials.md").read_text("utf-8")
    (spec,) = re.findall(r"```toml\n(.*?)```", trials, re.S)
    # As it stands there it takes an hour.
    small = spec.replace('"0..99"', '"0..1"').replace("seconds = 600", "seconds = 5")
    assert small != spec
    (tmp_path / "market.toml").write_text(small)
    return tmp_path


@pytest.mark.parametrize("page", WITH_COMMANDS, ids=lambda page: page.stem)
def test_every_command_of_a_page_runs_in_its_order(page: Path, sandbox: Path) -> None:
    if page.parent.name == "how-to" or page.stem == "tutorial":
        # These begin with nothing.
        for made in [*sandbox.rglob("*.plan.json"), *sandbox.glob("hills.*")]:
            made.unlink()
    lines = _commands(page)
    assert lines
    for words in lines:
        code = main(words)
        asks = words[0] in ("proof", "compare", "probe", "waves", "merge", "links")
        assert code == 0 or (asks and code == 1), words


def test_there_are_pages_with_commands() -> None:
    assert {"README", "tutorial", "build-server", "merge", "trials"} <= {
        page.stem for page in WITH_COMMANDS
    }


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
