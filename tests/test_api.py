"""The interface for scripts: its examples hold, it is what the package gives, and it costs a start nothing."""

import doctest
import os
import subprocess
import sys
from pathlib import Path

import pytest

import woven_locus
from woven_locus import api


def test_every_example_holds(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(tmp_path)
    found = doctest.testmod(api, optionflags=doctest.ELLIPSIS | doctest.IGNORE_EXCEPTION_DETAIL)
    assert found.attempted > 10
    assert not found.failed


def test_the_package_gives_all_of_it() -> None:
    assert set(woven_locus.__all__) == {*api.__all__, "__version__"}
    for name in api.__all__:
        assert getattr(woven_locus, name) is getattr(api, name)
    with pytest.raises(AttributeError, match="no attribute 'secret'"):
        woven_locus.secret  # noqa: B018


def test_importing_the_package_brings_nothing_in() -> None:
    code = "import sys, woven_locus; sys.exit('numpy' in sys.modules)"
    assert subprocess.run([sys.executable, "-c", code], check=False).returncode == 0


def test_a_plan_that_a_script_made_is_as_one_of_the_window(tmp_path: Path) -> None:
    plan = woven_locus.new_plan(40, 30, cell=24, first=(-3, 2))
    first = woven_locus.place(plan, "loom-hall", (0, 4), when="2031-01-01T08:00:00+00:00")
    second = woven_locus.place(plan, "dye-works", (20, 9), turn=1)
    assert isinstance(woven_locus.route(plan, first, second), woven_locus.NoRoute)
    assert woven_locus.lay_road(plan, [(col, 6) for col in range(30)], "pack") == 30
    assert woven_locus.lay_road(plan, [(col, 6) for col in range(30)], "pack") == 0
    over = woven_locus.route(plan, (0, 20), (9, 20), over="ground", moves=8)
    assert isinstance(over, woven_locus.Route)
    assert over.length == 9 * 24
    woven_locus.demolish(plan, second)
    path = tmp_path / "made.plan.json"
    woven_locus.save_plan(plan, path)
    again = woven_locus.open_plan(os.fspath(path))
    assert list(again.register.numbers()) == [first]
    assert not any(item.code == "unsound" for item in woven_locus.proof(again).findings)


@pytest.mark.parametrize(
    ("ask", "words"),
    [
        (lambda plan: woven_locus.probe(plan, "castle", (0, 0)), "castle"),
        (lambda plan: woven_locus.place(plan, "loom-hall", (99, 0)), "outside the grid"),
        (lambda plan: woven_locus.demolish(plan, 7), "7"),
        (lambda plan: woven_locus.lay_road(plan, [(0, 0)], "silk"), "there is cart, pack, toll"),
        (lambda plan: woven_locus.route(plan, 1, (0, 0)), "S1"),
        (lambda plan: woven_locus.route(plan, (0, 0), (1, 1), over="air"), "no way over 'air'"),
        (lambda plan: woven_locus.snap(plan, float("nan"), 0), "finite"),
        (lambda _plan: woven_locus.new_plan(0, 3), "column"),
    ],
)
def test_what_cannot_be_is_refused_in_words(ask: object, words: str) -> None:
    plan = woven_locus.new_plan(8, 8)
    with pytest.raises(woven_locus.WovenError, match=words):
        ask(plan)  # type: ignore[operator]
