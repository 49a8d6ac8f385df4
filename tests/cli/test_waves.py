"""`waves`: ways, ranges, cuts, what if, and what came of it; and the tables in and out."""

import json
import subprocess
import sys
from pathlib import Path

import pytest

from tests.core.test_waves import field, put
from woven_locus.files import plan_json

ANSWER = {"entry", "goal", "found", "over", "moves", "length", "cost", "cells", "points"}


@pytest.fixture
def plan(tmp_path: Path) -> Path:
    made = field()
    put(made, "post", 9, 1)
    path = tmp_path / "field.plan.json"
    plan_json.save(made, path)
    return path


def test_the_ways_what_is_in_range_and_the_least_cut(run, plan: Path) -> None:  # type: ignore[no-untyped-def]
    got = run("waves", plan)
    assert got.code == 0
    (path,) = got.value["paths"]
    assert set(path) == ANSWER
    assert (path["entry"], path["goal"], path["found"]) == ("E1", "G1", True)
    assert path["length"] == pytest.approx(19.0)
    assert path["cells"][0] == [0, 2]
    assert path["cells"][-1] == [19, 2]
    (tower,) = got.value["towers"]
    assert tower["range"] == [0.0, 2.5]
    assert tower["in_range"][0]["length"] == pytest.approx(2 * (2.5**2 - 1) ** 0.5)
    (cut,) = got.value["cut"]
    # The entry lies at the edge: its three neighbours.
    assert len(cut["cells"]) == 3


def test_what_if_something_stood_there_too(run, plan: Path) -> None:  # type: ignore[no-untyped-def]
    more = run("waves", plan, "--place", "wall@5,2/1", "--place", "wall@5,0/1")
    assert more.code == 0
    assert more.value["paths"][0]["length"] > 19.0
    sealed = run(
        "waves", plan, *(part for row in range(5) for part in ("--place", f"post@5,{row}"))
    )
    assert sealed.code == 1
    assert sealed.value["paths"][0]["found"] is False
    assert sealed.value["paths"][0]["goal"] is None
    assert sealed.value["cut"][0]["why"] == "no way leads to a goal"
    for text, words in (
        ("post", "KIND@COL,ROW"),
        ("post@9,1", "cannot stand at 9, 1: occupied by S1 Post"),
        ("tent@1,1", "no kind 'tent'"),
        ("post@99,1", "cannot stand at 99, 1"),
    ):
        bad = run("waves", plan, "--place", text)
        assert bad.code == 2
        assert words in bad.err


def test_the_waves_run_and_come_to_the_same_digest_elsewhere(run, plan: Path) -> None:  # type: ignore[no-untyped-def]
    got = run("waves", plan, "--simulate", "--seed", "4")
    outcome = got.value["outcome"]
    assert outcome["waves"] == [
        {"wave": 1, "name": "One", "sent": 1, "stopped": 1, "through": 0, "lives": 0, "earned": 7}
    ]
    assert (outcome["lives"], outcome["funds"], outcome["held"]) == (20, 997, True)
    code = "from woven_locus.cli.main import run; run()"
    asked = ["waves", str(plan), "--simulate", "--seed", "4"]
    done = subprocess.run([sys.executable, "-c", code, *asked], capture_output=True, check=False)
    assert json.loads(done.stdout)["outcome"]["digest"] == outcome["digest"]


def test_a_plan_without_entries_is_told_so(run, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    bare = tmp_path / "bare.plan.json"
    run("new", bare, "--size", "5x5")
    got = run("waves", bare)
    assert got.code == 2
    assert "has no entry" in got.err


def test_probe_says_seals_and_place_refuses(run, plan: Path) -> None:  # type: ignore[no-untyped-def]
    got = run("probe", plan, "--kind", "post", "--cell", "0,2")
    assert got.code == 1
    assert got.value["reasons"] == ["seals"]
    placed = run("place", plan, "--kind", "post", "--cell", "0,2")
    assert placed.code == 1


def test_the_tables_go_out_and_in_again(run, plan: Path, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    before = plan.read_bytes()
    for form in ("places-csv", "attackers-csv", "waves-csv"):
        out = tmp_path / f"{form}.csv"
        assert run("export", plan, "--as", form, "--out", out).code == 0
        assert run("import", plan, out, "--as", form).code == 0
        assert plan.read_bytes() == before
    # Another waves table takes the place of the plan's own.
    table = tmp_path / "waves.csv"
    table.write_text("wave,begins,entry,kind,count\nA,0,E1,moth,3\nA,0,E1,moth,4\nB,9,,,\n")
    got = run("import", plan, table, "--as", "waves-csv")
    assert got.value["waves"] == 2
    first, second = plan_json.load(plan).waves.waves
    assert [group.count for group in first.groups] == [3, 4]
    assert second.groups == ()


@pytest.mark.parametrize(
    ("form", "text", "words"),
    [
        ("places-csv", "id,name,cells\nE1,Hollow,0:99\n", "line 2: cell 0:99 is outside the grid"),
        ("places-csv", "id,name,cells\nE1,Hollow,zero\n", "a cell is written as column:row"),
        ("places-csv", "id,name,cells\nE1,A,0:0\nE2,A,0:1\n", "the name 'A' is used twice"),
        ("places-csv", "id,name\nE1,A\n", "no column 'cells'"),
        ("attackers-csv", "key,name,size,speed,health\na,A,1,1,0\n", "line 2: health must be"),
        ("attackers-csv", "key,name,size,speed,health\na,A,1,fast,5\n", "speed is a number"),
        ("attackers-csv", "key,name,size,speed,health,moves\na,A,1,1,5,swims\n", "moves is roads"),
        ("attackers-csv", "key,name,size,speed,health\na,A,1,1,5\n", "no kind 'moth'"),
        ("waves-csv", "wave,begins,entry,kind\nA,0,E9,moth\n", "no entry 'E9'"),
        ("waves-csv", "wave,begins,entry,kind,count\nA,0,E1,moth,10000000\n", "count must be"),
        ("waves-csv", "wave,begins,entry,kind\nA,-1,E1,moth\n", "begins must be"),
    ],
)
def test_a_bad_table_is_one_clear_line_and_nothing_is_done(
    run,  # type: ignore[no-untyped-def]
    plan: Path,
    tmp_path: Path,
    form: str,
    text: str,
    words: str,
) -> None:
    before, path = plan.read_bytes(), tmp_path / "table.csv"
    path.write_text(text)
    got = run("import", plan, path, "--as", form)
    assert got.code == 2
    assert words in got.err
    assert got.err.count("\n") == 1
    assert plan.read_bytes() == before
