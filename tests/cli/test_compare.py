"""`compare` and `merge`, and both as drivers of a real git repository."""

import json
import shlex
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest

from tests.helpers.builders import paint, put
from woven_locus.core import edits
from woven_locus.core.books import Funds
from woven_locus.core.editing import History
from woven_locus.core.geometry import Cell
from woven_locus.core.vehicles import TrafficPlan, Trip
from woven_locus.files import plan_json
from woven_locus.package_data import package_data


def changed(path: Path, name: str, *, hut: tuple[int, int] | None = None, **what: Any) -> Path:
    """A copy in which something is another."""
    plan = plan_json.load(path)
    if hut is not None:
        put(plan, "hut", *hut)
    if "ground" in what:
        History(plan).do(paint(plan, [Cell(*cell) for cell in what["ground"]], what.get("code", 1)))
    if "moved" in what:
        History(plan).do(edits.move(plan, *what["moved"], 0))
    if "called" in what:
        plan.name = what["called"]
    if "trips" in what:
        plan.traffic = TrafficPlan(trips=what["trips"])
    out = path.with_name(name)
    plan_json.save(plan, out)
    return out


def test_what_differs_has_a_part_for_every_part(run: Any, plan: Path) -> None:
    same = run("compare", plan, plan)
    assert (same.code, same.value["same"], same.value["findings"]["came"]) == (0, True, [])
    other = changed(
        plan,
        "b.json",
        hut=(3, 2),
        ground=[(0, 2), (2, 2)],
        called="Town two",
        moved=(1, Cell(-2, 1)),
    )
    got = run("compare", plan, other)
    assert got.code == 1
    found = got.value
    assert found["same"] is False
    assert found["grid"] == []
    assert found["terrain"]["cells"] == 2
    assert found["terrain"]["box"] == [0, 2, 2, 2]
    assert [row["structure"] for row in found["structures"]["added"]] == ["S4"]
    assert found["structures"]["moved"] == [
        {"structure": "S1", "from": [-2, -1], "to": [-2, 1], "turn": [0, 0], "mirror": [False] * 2}
    ]
    (name,) = found["plan"]
    assert (name["what"], name["after"]) == ("name", "Town two")
    keys = set(json.loads(plan.read_text())) - {
        "format",
        "version",
        "next_number",
        "ground",
        "longest_crossing",
    }
    named = {"name", "money", "window", "actor", "keep"}  # these are values of the plan itself
    assert keys - named <= set(found) | {"terrain"}
    text = run_text(["compare", str(plan), str(other), "--as", "text"])
    assert "+ structures S4 hut" in text
    assert "~ structures S1: moved from -2, -1 to -2, 1" in text
    assert "~ terrain: 2 cells from 0, 2 to 2, 2: 2 " in text
    assert run_text(["compare", str(plan), str(plan), "--as", "text"]) == "the same\n"


def test_every_part_has_lines(run: Any, plan: Path) -> None:
    """A plan in which everything is another: nothing is said twice, and all of it can be read."""
    before = plan_json.load(plan)
    demo = plan.with_name("demo.plan.json")
    for name in ("selvedge-vale", "thornmoth-pass"):
        demo.write_bytes(package_data("woven_locus.demo", f"{name}.plan.json"))
        for one, two in ((plan, demo), (demo, plan)):
            assert run("compare", one, two).value["same"] is False
            lines = run_text(["compare", str(one), str(two), "--as", "text"]).splitlines()
            assert len(lines) > 20
            assert all(line[:2] in ("+ ", "- ", "~ ") for line in lines)
    town = plan_json.load(demo)
    town.funds = Funds(5000, 50, 10)
    town.account.now_under(town.kinds, town.funds)
    History(town).do(edits.demolish(town, town.register.numbers()[:1]))
    plan_json.save(town, plan)
    assert "+ gone " in run_text(["compare", str(demo), str(plan), "--as", "text"])
    assert before.register


def run_text(words: list[str]) -> str:
    command = [sys.executable, "-m", "woven_locus", *words]
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    assert done.stderr == ""
    return done.stdout


def test_trips_that_take_longer_are_named(run: Any, plan: Path) -> None:
    trips = (Trip(1, 2),)
    before = changed(plan, "a.json", trips=trips)
    town = plan_json.load(before)
    History(town).do(edits.erase_road(town, [Cell(1, 0)]))
    after = plan.with_name("b.json")
    plan_json.save(town, after)
    found = run("compare", before, after).value
    (route,) = found["routes"]
    assert (route["from"], route["to"], route["after"]) == ("S1", "S2", None)
    assert route["before"] > 0
    assert "no-way" in [item["code"] for item in found["findings"]["came"]]
    assert [item["code"] for item in run("compare", after, before).value["findings"]["went"]].count(
        "no-way"
    ) == 1


def test_two_changes_come_together(run: Any, plan: Path) -> None:
    ours = changed(plan, "ours.json", hut=(-2, 1), called="Ours")
    theirs = changed(plan, "theirs.json", hut=(3, 2), ground=[(0, 2)])
    out = plan.with_name("merged.json")
    got = run("merge", plan, ours, theirs, "--out", out)
    assert (got.code, got.value["conflicts"]) == (0, [])
    merged = plan_json.load(out)
    assert merged.name == "Ours"
    assert {row.cell for row in merged.register} >= {(-2, 1), (3, 2)}
    # Over one of the three, as a merge driver does.
    assert run("merge", plan, ours, theirs, "--out", ours).code == 0
    assert ours.read_bytes() == out.read_bytes()


def test_conflicts_are_listed_and_ours_is_kept(run: Any, plan: Path) -> None:
    ours = changed(plan, "ours.json", called="Ours", ground=[(0, 2)])
    theirs = changed(plan, "theirs.json", called="Theirs", ground=[(0, 2)], code=2)
    out = plan.with_name("merged.json")
    got = run("merge", plan, ours, theirs, "--out", out)
    assert got.code == 1
    parts = [(item["part"], item["ours"], item["theirs"]) for item in got.value["conflicts"]]
    keys = [item.key for item in plan_json.load(plan).terrain_table]
    assert parts == [("terrain", keys[1], keys[2]), ("plan", "Ours", "Theirs")]
    assert out.read_bytes() == ours.read_bytes()


@pytest.mark.parametrize("bad", ["missing", "broken", "folder"])
def test_bad_input_is_one_line_and_writes_nothing(
    run: Any, plan: Path, tmp_path: Path, bad: str
) -> None:
    other = tmp_path / "other.json"
    if bad == "broken":
        other.write_text('{"format": "woven-locus/plan", "version": 8')
    elif bad == "folder":
        other.mkdir()
    out = tmp_path / "merged.json"
    for words in (("compare", plan, other), ("merge", plan, plan, other, "--out", out)):
        got = run(*words)
        assert got.code == 2
        assert str(other) in got.err
    assert not out.exists()
    assert run("merge", plan, plan, plan).code == 2


def test_as_drivers_of_git(plan: Path, tmp_path: Path) -> None:
    """As docs/guide/together.md says."""
    guide = (Path(__file__).parents[2] / "docs/guide/together.md").read_text("utf-8")
    repository = tmp_path / "repository"
    repository.mkdir()
    program = f"{shlex.quote(sys.executable)} -m woven_locus"

    def git(*words: str, code: int = 0) -> str:
        identity = ["-c", "user.name=A", "-c", "user.email=a@example.invalid"]
        done = subprocess.run(
            ["git", *identity, *words], cwd=repository, capture_output=True, text=True, check=False
        )
        assert done.returncode == code, done.stderr
        return done.stdout + done.stderr

    git("init", "-q", "-b", "main")
    git("config", "core.hooksPath", "/dev/null")
    recipe = [line for line in guide.splitlines() if line.startswith("git config ")]
    assert len(recipe) == 3
    for line in recipe:
        git(*shlex.split(line.replace("woven-locus ", f"{program} "))[1:])
    (repository / ".gitattributes").write_text("*.plan.json merge=plan diff=plan\n")
    assert "*.plan.json merge=plan diff=plan" in guide
    town = repository / "town.plan.json"
    town.write_bytes(plan.read_bytes())

    def commit(words: str, **what: Any) -> None:
        if what:
            changed(town, town.name, **what)
        git("add", "-A")
        git("commit", "-q", "-m", words)

    commit("base")
    git("checkout", "-q", "-b", "side")
    commit("theirs", hut=(3, 2), ground=[(0, 2)])
    git("checkout", "-q", "main")
    commit("ours", hut=(-2, 1), called="Ours")
    git("merge", "-q", "--no-edit", "side")
    merged = plan_json.load(town)
    assert {row.number for row in merged.register} == {1, 2, 3, 4, 5}
    assert merged.name == "Ours"
    changed(town, town.name, called="Other")
    assert "~ plan name: Ours to Other" in git("diff")
    git("checkout", "-q", "--", town.name)
    git("checkout", "-q", "-b", "third")
    commit("third", called="Third")
    git("checkout", "-q", "main")
    commit("fourth", called="Fourth")
    assert "CONFLICT" in git("merge", "--no-edit", "third", code=1)
    # What is there is a plan all the same, with ours.
    assert plan_json.load(town).name == "Fourth"
