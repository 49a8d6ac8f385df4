"""`import` and `export`, and what the window means on the command line."""

from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from woven_locus.core.geometry import Cell
from woven_locus.core.grid import BuildWindow
from woven_locus.demo import open_demo
from woven_locus.files import plan_json


def test_heights_and_terrain_go_out_and_in_again(plan: Path, tmp_path: Path, run) -> None:  # type: ignore[no-untyped-def]
    picture, grid = tmp_path / "t.png", tmp_path / "h.asc"
    got = run("export", plan, "--as", "terrain-png", "--out", picture)
    assert (got.code, got.value["cols"], got.value["rows"]) == (0, 7, 4)
    bare = tmp_path / "bare.plan.json"
    assert run("new", bare, "--size", "7x4").code == 0
    got = run("import", bare, picture, "--as", "terrain-png")
    assert got.code == 0
    assert got.value["unmatched"] == []
    assert {"colour": "#7FA3BD", "cells": 1, "class": "stream"} in got.value["colours"]
    assert (plan_json.load(bare).terrain == plan_json.load(plan).terrain).all()
    grid.write_text("ncols 7\nnrows 4\n" + "1 2 3 4 5 6 7\n" * 4)
    got = run("import", bare, grid, "--as", "heights-asc", "--scale", "2")
    assert got.value["heights"] == "ASCII grid, 7 × 4, 2 to 14"
    for form in ("heights-asc", "heights-png8", "heights-png16"):
        out = tmp_path / form
        assert run("export", bare, "--as", form, "--out", out).code == 0
        assert run("import", plan, out, "--as", form.rstrip("1068")).code == 0
        found = plan_json.load(plan).heights
        assert found is not None
        assert abs(found[0] - np.arange(2, 16, 2)).max() < 0.05


def test_a_grey_picture_is_written_at_the_scale_asked_for(run, plan: Path, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    town = plan_json.load(plan)
    town.heights = np.arange(28, dtype=np.float32).reshape(4, 7) * 10
    plan_json.save(town, plan)
    out = tmp_path / "h.png"
    got = run("export", plan, "--as", "heights-png8", "--out", out, "--scale", "2", "--base", "-10")
    assert got.code == 0
    assert np.asarray(Image.open(out)).tolist()[0] == [5, 10, 15, 20, 25, 30, 35]
    for wrong in (["--scale", "0"], ["--base", "inf"]):
        assert run("export", plan, "--as", "heights-png8", "--out", out, *wrong).code == 2
    got = run("export", plan, "--as", "heights-asc", "--out", out, "--scale", "2")
    assert "for grey pictures" in got.err


def test_colours_without_a_class_are_a_no_and_nothing_is_written(
    plan: Path, tmp_path: Path, run
) -> None:  # type: ignore[no-untyped-def]
    path = tmp_path / "odd.png"
    Image.fromarray(np.full((4, 7, 3), (255, 0, 255), np.uint8)).save(path)
    before = plan.read_bytes()
    got = run("import", plan, path, "--as", "terrain-png")
    assert got.code == 1
    assert got.value["unmatched"] == [{"colour": "#FF00FF", "cells": 28, "class": None}]
    assert plan.read_bytes() == before
    out = tmp_path / "out.plan.json"
    done = run("import", plan, path, "--as", "terrain-png", "--colour", "#FF00FF=bog", "--out", out)
    assert done.code == 0
    assert (plan_json.load(out).terrain == 2).all()
    assert plan.read_bytes() == before


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (["--as", "heights-asc"], "was cut short"),
        (["--as", "terrain-png"], "is no PNG"),
        (["--as", "wind"], "'wind' is not one of"),
        (["--as", "terrain-png", "--colour", "red=bog"], "is no PNG"),
    ],
)
def test_a_file_that_cannot_be_brought_in_is_one_line_and_exit_2(
    plan: Path, tmp_path: Path, run, arguments: list[str], words: str
) -> None:  # type: ignore[no-untyped-def]
    path = tmp_path / "bad"
    path.write_text("ncols 7\nnrows 4\n1 2 3\n")
    before = plan.read_bytes()
    got = run("import", plan, path, *arguments)
    assert got.code == 2
    assert words in got.err
    assert plan.read_bytes() == before


def test_another_size_asks_how_it_is_to_lie(plan: Path, tmp_path: Path, run) -> None:  # type: ignore[no-untyped-def]
    path = tmp_path / "small.asc"
    path.write_text("ncols 2\nnrows 1\n1 2\n")
    got = run("import", plan, path, "--as", "heights-asc")
    assert got.code == 2
    assert "is 2x1, the plan 7x4" in got.err
    assert run("import", plan, path, "--as", "heights-asc", "--fit", "low").code == 0
    found = plan_json.load(plan).heights
    assert found is not None
    assert found[0, :2].tolist() == [1, 2]
    assert np.isnan(found).sum() == 26


def test_heights_that_are_not_there_are_not_written(plan: Path, tmp_path: Path, run) -> None:  # type: ignore[no-untyped-def]
    got = run("export", plan, "--as", "heights-png8", "--out", tmp_path / "x.png")
    assert got.code == 2
    assert "has no heights" in got.err
    assert not (tmp_path / "x.png").exists()


def test_the_strict_answer_keeps_to_the_window(plan: Path, run) -> None:  # type: ignore[no-untyped-def]
    town = plan_json.load(plan)
    town.window = BuildWindow(Cell(0, 0), 2, 2)
    plan_json.save(town, plan)
    points = run("snap", plan, "--rule", "centre", "60,20", "130,20").value["points"]
    assert points[0]["cell"] == points[0]["virtual_cell"] == [0, 0]
    assert (points[1]["cell"], points[1]["virtual_cell"]) == (None, [3, 0])
    assert run("probe", plan, "--kind", "hut", "--cell", "3,1").value["reasons"] == ["outside"]


def test_a_point_beyond_all_counting_is_refused(run) -> None:  # type: ignore[no-untyped-def]
    got = run("snap", "--size", "4x4", "--rule", "centre", "1e300,0")
    assert got.code == 2
    assert "too far" in got.err


def test_kinds_and_a_register_go_from_plan_to_plan(run, plan: Path, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    kinds, table = tmp_path / "k.csv", tmp_path / "r.csv"
    assert run("export", plan, "--as", "kinds-csv", "--out", kinds).code == 0
    assert run("export", plan, "--as", "register-csv", "--out", table).code == 0
    lines = kinds.read_text().splitlines()
    kinds.write_text("\n".join([lines[0], lines[1].replace(",#,", ",###,")]) + "\n")
    before = plan.read_bytes()
    told = run("import", plan, kinds, "--as", "kinds", "--over")
    assert told.code == 1
    assert [row["id"] for row in told.value["misfits"]] == ["S2", "S3"]
    assert plan.read_bytes() == before
    done = run("import", plan, kinds, "--as", "kinds", "--over", "--demolish")
    assert (done.code, done.value["kinds"]) == (0, ["hut"])
    assert "S3" not in run("export", plan, "--as", "register-csv", "--out", table).err
    before = plan.read_bytes()
    again = run("import", plan, table, "--as", "register-csv")
    assert (again.code, again.value["placed"]) == (1, [])
    assert again.value["refused"][0].startswith("line 2: Hut cannot stand at")
    assert plan.read_bytes() == before
    table.write_text("kind,col,row\nhut,99,99\nbarn,nowhere,1\n")
    partly = run("import", plan, table, "--as", "register-csv", "--partly")
    assert partly.value["placed"] == []
    assert len(partly.value["refused"]) == 2


def test_a_turn_that_a_kind_does_not_take_is_bad_usage(run, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    path = tmp_path / "vale.plan.json"
    plan_json.save(open_demo(), path)
    done = run("probe", path, "--kind", "drying-frames", "--cell", "10,10", "--turn", "2")
    assert (done.code, done.value) == (2, None)
    assert "stands turned 0° or 90° only" in done.err
    inn = run("probe", path, "--kind", "carriers-inn", "--cell", "10,10", "--mirror")
    assert [cell["cell"] for cell in inn.value["cells"]] == [
        [12, 10],
        [12, 11],
        [10, 12],
        [11, 12],
        [12, 12],
    ]
    assert inn.value["words"]


def test_roads_and_routes_go_out(plan: Path, tmp_path: Path, run) -> None:  # type: ignore[no-untyped-def]
    out = tmp_path / "out"
    assert run("export", plan, "--as", "roads-csv", "--out", out).code == 0
    assert out.read_text().splitlines()[1] == "-2,0,end,1,2,road,,no"
    assert run("export", plan, "--as", "junctions-graphml", "--out", out).code == 0
    assert out.read_text().count("<node") == 3
    assert run("export", plan, "--as", "matrix-csv", "--out", out).code == 0
    assert out.read_text().splitlines()[1].startswith("S1,0,")
    got = run("export", plan, "--as", "routes-lines", "--out", out)
    assert (got.code, got.value["routes"], got.value["without"]) == (0, 1, [])
    some = ("export", plan, "--as", "routes-csv", "--out", out)
    got = run(*some, "--trip", "S1:S2", "--trip", "-2,0:S3", "--over", "ground", "--moves", "8")
    assert (got.code, got.value["routes"]) == (0, 2)
    got = run(*some, "--trip", "S1:S3")
    assert got.code == 1
    assert got.value["without"] == [
        "the road at S1 Hut (7 cells) does not meet the road at S3 Hut (1 cell); "
        "they come nearest at 1, 0 and 1, 2"
    ]
    assert run(*some, "--trip", "S1").code == 2
    assert "is no trip" in run(*some, "--trip", "S1").err
    assert (
        "is for routes"
        in run("export", plan, "--as", "roads-csv", "--out", out, "--trip", "S1:S2").err
    )
    assert "S99" in run(*some, "--trip", "S1:S99").err


def test_a_route_for_a_wide_agent_and_with_roads_preferred(plan: Path, run) -> None:  # type: ignore[no-untyped-def]
    got = run("route", plan, "--from", "S1", "--to", "S2", "--over", "preferred")
    assert got.value["found"]
    wide = run("route", plan, "--from", "S1", "--to", "S2", "--over", "ground", "--size", "3")
    assert (wide.code, wide.value["found"]) == (1, False)
    assert "wide" in wide.value["why"]
