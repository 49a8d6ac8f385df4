"""The verbs with their fixed keys and exit codes, in this process; and once as a real command."""

import json
import os
import subprocess
import sys
from pathlib import Path

import pytest

from woven_locus.files import plan_json


def test_snap_takes_negative_points_and_grids_as_they_stand(run) -> None:  # type: ignore[no-untyped-def]
    grid = ["--size", "10x8", "--cell", "24x16", "--origin", "-24,-16", "--first", "-5,-7"]
    got = run("snap", *grid, "--rule", "intersection", "--holding", "3x2", "-3.5,12", "500,0")
    assert got.code == 0
    inside, outside = got.value["points"]
    assert set(inside) == {"world", "cell", "virtual_cell", "snapped", "working", "low_cell"}
    assert inside["world"] == [-3.5, 12]
    assert inside["cell"] == inside["virtual_cell"] == [-5, -6]
    assert inside["snapped"] == [0, 16]
    assert inside["low_cell"] == [-6, -6]
    assert (outside["cell"], outside["virtual_cell"]) == (None, [16, -6])


def test_snap_on_a_plan_with_a_step(run, plan: Path) -> None:  # type: ignore[no-untyped-def]
    point = run("snap", plan, "--rule", "corner", "--step", "5,3", "-7,10").value["points"][0]
    assert point["snapped"] == [-10, 9]
    assert "low_cell" not in point
    assert any("floor" in line for line in point["working"])


def test_probe_lists_every_cell_and_what_is_in_the_way(run, plan: Path) -> None:  # type: ignore[no-untyped-def]
    good = run("probe", plan, "--kind", "hut", "--cell", "-1,-1")
    assert (good.code, good.value["ok"], good.value["reasons"]) == (0, True, [])
    bad = run("probe", plan, "--kind", "barn", "--cell", "-2,1", "--turn", "2")
    assert bad.code == 1
    assert bad.value == {
        "ok": False,
        "cells": [
            {"cell": [-2, 1], "ok": True, "reasons": []},
            {"cell": [-1, 1], "ok": True, "reasons": []},
            {"cell": [0, 1], "ok": False, "reasons": ["terrain"]},
            {"cell": [-2, 2], "ok": True, "reasons": []},
            {"cell": [-1, 2], "ok": True, "reasons": []},
            {"cell": [0, 2], "ok": False, "reasons": ["occupied"]},
        ],
        "reasons": ["terrain", "occupied"],
        "blockers": [
            {"what": "terrain", "name": "Stream", "id": None},
            {"what": "structure", "name": "S3 Hut", "id": "S3"},
        ],
        "words": "Stream cannot be built on; occupied by S3 Hut",
        "doubts": [],
    }
    outside = run("probe", plan, "--kind", "hut", "--cell", "-3,-1")
    assert outside.value["cells"] == [{"cell": [-3, -1], "ok": False, "reasons": ["outside"]}]


def test_place_refuses_what_probe_refuses_and_then_writes_nothing(
    run, plan: Path, tmp_path: Path
) -> None:  # type: ignore[no-untyped-def]
    before = plan.read_bytes()
    refused = run("place", plan, "--kind", "barn", "--cell", "-2,1")
    assert (refused.code, refused.value["ok"]) == (1, False)
    assert plan.read_bytes() == before
    out = tmp_path / "other.plan.json"
    placed = run("place", plan, "--kind", "barn", "--cell", "2,1", "--turn", "1", "--out", out)
    assert (placed.code, placed.value["ok"]) == (1, False)
    placed = run("place", plan, "--kind", "ell", "--cell", "2,1", "--turn", "0", "--out", out)
    assert (placed.code, placed.value["reasons"]) == (1, ["outside"])
    assert not out.exists()
    placed = run("place", plan, "--kind", "hut", "--cell", "3,1", "--out", out)
    assert (placed.code, placed.value["structure"]) == (0, "S4")
    assert plan.read_bytes() == before
    assert plan_json.load(out).register[4].cell == (3, 1)


def test_route_and_links(run, plan: Path) -> None:  # type: ignore[no-untyped-def]
    found = run("route", plan, "--from", "S1", "--to", "s2")
    assert found.code == 0
    assert set(found.value) == {"found", "cost", "length", "cells", "points", "explored"}
    assert found.value["cells"][0] == [-2, 0]
    assert found.value["cells"][-1] == [4, 0]
    assert found.value["length"] == 6 * 24
    assert found.value["points"][0] == [12, 24]
    none = run("route", plan, "--from", "S1", "--to", "S3")
    assert (none.code, set(none.value), none.value["found"]) == (1, {"found", "why"}, False)
    ground = run("route", plan, "--from", "-2,1", "--to", "4,2", "--over", "ground", "--moves", 8)
    assert ground.value["found"]
    links = run("links", plan)
    assert (links.code, links.value) == (
        0,
        {"groups": [{"structures": ["S1", "S2"], "road_cells": 7}], "cut_off": ["S3"]},
    )


def test_new_makes_a_plan_and_does_not_overwrite_one(run, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    path = tmp_path / "fresh.plan.json"
    args = [
        "new",
        path,
        "--size",
        "8x6",
        "--cell",
        "24x16",
        "--centred",
        "-3,4",
        "--first",
        "-5,-7",
    ]
    assert run(*args).code == 0
    spec = plan_json.load(path).spec
    assert (spec.cols, spec.rows, spec.centred, spec.first) == (8, 6, True, (-5, -7))
    assert (spec.origin_x, spec.origin_y) == (-3 - 96, 4 - 48)
    before = path.read_bytes()
    again = run(*args)
    assert (again.code, "is there already" in again.err) == (2, True)
    assert path.read_bytes() == before
    assert run(*args, "--force", "--name", "Other").code == 0
    assert plan_json.load(path).name == "Other"


@pytest.mark.parametrize(
    ("args", "words"),
    [
        (["snap"], "Missing argument"),
        (["snap", "--rule", "corner", "3,4"], "give a PLAN before the points"),
        (["snap", "--size", "4x4", "--rule", "corner"], "Missing argument"),
        (["snap", "--size", "4x4", "--rule", "middle", "3,4"], "'middle' is not one of"),
        (["snap", "--size", "4x4", "--rule", "corner", "3;4"], "expected for instance -3.5,12"),
        (["snap", "--size", "4x4", "--rule", "corner", "3,nan"], "expected for instance"),
        (["snap", "--size", "4x4", "--rule", "corner", "--wat", "3,4"], "no such option '--wat'"),
        (["snap", "--size", "0x4", "--rule", "corner", "3,4"], "at least one column"),
        (["snap", "--size", "4", "--rule", "corner", "3,4"], "expected for instance 64x48"),
        (["snap", "--size", "4x4", "--step", "0", "--rule", "corner", "3,4"], "above 0"),
        (["snap", "--size", "4x4", "--holding", "0x1", "--rule", "corner", "3,4"], "at least 1x1"),
        (
            [
                "snap",
                "--size",
                "4x4",
                "--origin",
                "0,0",
                "--centred",
                "0,0",
                "--rule",
                "corner",
                "1,1",
            ],
            "exclude each other",
        ),
        (["probe", "nowhere.plan.json", "--kind", "hut", "--cell", "1,1"], "No such file"),
        (["route", "PLAN", "--from", "S99", "--to", "S1"], "no structure S99"),
        (["route", "PLAN", "--from", "here", "--to", "S1"], "neither a structure like S12"),
        (["probe", "PLAN", "--kind", "inn", "--cell", "1,1"], "no kind 'inn'; the plan has hut"),
        (["probe", "PLAN", "--kind", "hut", "--cell", "1,1", "--turn", "4"], "0<=x<=3"),
        (["demo", "atlantis"], "no demo 'atlantis'; there is selvedge-vale"),
        (["fly"], "no verb 'fly'; the verbs are"),
        (["missing.plan.json"], "No such file"),
        (["new", "/dev/null/folder/x.plan.json", "--size", "4x4"], "its folder cannot be made"),
        (["new", "x.plan.json", "--size", "60000x60000"], "the most is"),
    ],
)
def test_bad_usage_is_one_line_and_exit_2(run, plan: Path, args: list[str], words: str) -> None:  # type: ignore[no-untyped-def]
    got = run(*[plan if arg == "PLAN" else arg for arg in args])
    assert got.code == 2
    assert got.value is None
    assert words in got.err


def test_the_command_itself(plan: Path) -> None:
    command = [sys.executable, "-m", "woven_locus"]
    done = subprocess.run([*command, "links", str(plan)], capture_output=True, check=False)
    assert done.returncode == 0
    assert json.loads(done.stdout)["cut_off"] == ["S3"]
    no = subprocess.run(
        [*command, "route", str(plan), "--from", "S1", "--to", "S3"],
        capture_output=True,
        check=False,
    )
    assert (no.returncode, json.loads(no.stdout)["found"]) == (1, False)
    bad = subprocess.run([*command, "links", "nowhere"], capture_output=True, check=False)
    assert (bad.returncode, bad.stdout) == (2, b"")
    assert bad.stderr.decode().startswith("nowhere: cannot be read")


def test_without_a_display_the_window_is_refused_in_words(plan: Path) -> None:
    hidden = ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")
    environment = {key: value for key, value in os.environ.items() if key not in hidden}
    for arguments in ([str(plan)], ["demo"], []):
        command = [sys.executable, "-m", "woven_locus", *arguments]
        done = subprocess.run(command, env=environment, capture_output=True, text=True, check=False)
        assert done.returncode == 2
        assert done.stderr.startswith("there is no display to open a window on")
        assert len(done.stderr.splitlines()) == 1


def test_the_command_line_never_loads_qt(plan: Path) -> None:
    code = (
        "import sys; from woven_locus.cli.main import main; "
        f"main(['links', {str(plan)!r}]); sys.exit('PyQt6' in sys.modules)"
    )
    assert (
        subprocess.run([sys.executable, "-c", code], capture_output=True, check=False).returncode
        == 0
    )
