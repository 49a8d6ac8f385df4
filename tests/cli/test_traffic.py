"""`traffic`: the figures, the trips, the trace, and what is refused."""

import csv
import itertools
import json
import subprocess
import sys
from pathlib import Path

import pytest

from woven_locus.core.editing import History
from woven_locus.core.edits.traffic import add_vehicle, set_trips
from woven_locus.core.geometry import Cell
from woven_locus.core.vehicles import Trip, VehicleKind
from woven_locus.files import plan_json

CART = VehicleKind("cart", "Cart", "#A5383F", 4.0, 1.5, 12.0, 6.0, 8.0, 1.0, 1.0)
TRIPS = "start,end,depart,kind,every,count\nS1,S2,0,,4,5\n4:0,-2:0,1.5,,,\n"


@pytest.fixture
def trips(tmp_path: Path) -> Path:
    path = tmp_path / "trips.csv"
    path.write_text(TRIPS)
    return path


def test_a_run_adds_up_and_is_the_same_again(run, plan: Path, trips: Path) -> None:  # type: ignore[no-untyped-def]
    asked = ("traffic", plan, "--seconds", "60", "--trips", trips)
    got = run(*asked)
    assert got.code == 0
    found = got.value
    assert (found["seconds"], found["steps"], found["seed"]) == (pytest.approx(60), 1800, 0)
    assert found["wanted"] == found["sent"] == found["arrived"] == 6
    assert found["under_way"] == found["held_back"] == found["no_way"] == 0
    assert found["overlaps"] == found["stuck"] == 0
    assert 0 < found["mean_trip"] <= found["p95_trip"] < 60
    assert 0 < found["mean_delay"] < found["mean_trip"]
    assert 0 < found["mean_speed"] <= 48
    assert found["least_gap"] > 0
    assert found["junctions"] == found["crossings"] == []
    assert run(*asked).value == found
    assert run(*asked, "--step", "0.05").value["steps"] == 1200


def test_another_process_comes_to_the_same_digest(run, plan: Path, trips: Path) -> None:  # type: ignore[no-untyped-def]
    asked = ["traffic", str(plan), "--seconds", "20", "--trips", str(trips)]
    code = "from woven_locus.cli.main import run; run()"
    done = subprocess.run([sys.executable, "-c", code, *asked], capture_output=True, check=False)
    assert json.loads(done.stdout)["digest"] == run(*asked).value["digest"]


def test_the_plans_own_trips_and_kinds_are_saved_and_run(run, plan: Path) -> None:  # type: ignore[no-untyped-def]
    loaded = plan_json.load(plan)
    history = History(loaded)
    history.do(add_vehicle(loaded, CART))
    history.do(set_trips(loaded, [Trip(1, 2, 0.0, "cart", 5.0, 3), Trip(3, 2)]))
    plan_json.save(loaded, plan)
    document = json.loads(plan.read_text())
    assert document["trips"][0] == {
        "start": "S1",
        "end": "S2",
        "depart": 0,
        "kind": "cart",
        "every": 5,
        "count": 3,
    }
    again = plan_json.load(plan)
    assert again.traffic == loaded.traffic
    # S3 stands by no road of theirs: that is an answer, and exit 1.
    got = run("traffic", plan, "--seconds", "90")
    assert got.code == 1
    assert (got.value["arrived"], got.value["no_way"]) == (3, 1)


def test_the_trace_says_where_everybody_is(run, plan: Path, trips: Path, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    out = tmp_path / "trace.csv"
    asked = ("traffic", plan, "--seconds", "30", "--trips", trips, "--trace", out)
    assert run(*asked, "--trace-every", "0.5").code == 0
    with out.open() as file:
        rows = list(csv.DictReader(file))
    assert list(rows[0]) == (
        [
            "time",
            "agent",
            "kind",
            "x",
            "y",
            "heading",
            "speed",
            "length",
            "width",
            "state",
            "waits_for",
        ]
    )
    times = sorted({float(row["time"]) for row in rows})
    assert max(b - a for a, b in itertools.pairwise(times)) < 0.54
    first = [row for row in rows if row["agent"] == "V1"]
    places = [(float(row["x"]), float(row["y"])) for row in first]
    # Eastwards along the second row, right of its middle at y = 24, and never backwards.
    assert all(24 < y < 32 for _, y in places)
    assert [x for x, _ in places] == sorted(x for x, _ in places)
    assert {row["state"] for row in rows} <= {"driving", "queueing", "yielding"}
    assert all(abs((float(row["heading"]) + 180) % 360 - 180) < 20 for row in first)
    every_step = tmp_path / "steps.csv"
    run("traffic", plan, "--seconds", "2", "--trips", trips, "--trace", every_step)
    with every_step.open() as file:
        assert len({row["time"] for row in csv.DictReader(file)}) == 60


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("from,to\nS1,S2\n", "no column 'start'"),
        ("start,end,depart\nS1,S99,0\n", "line 2: no structure S99"),
        ("start,end,depart\nS1,90:0,0\n", "line 2: cell 90:0 is outside the grid"),
        ("start,end,depart\nS1,S2,-1\n", "depart must be 0 seconds or more"),
        ("start,end,depart\nS1,S2,nan\n", "line 2"),
        ("start,end,depart,kind\nS1,S2,0,ox\n", "no kind of vehicle or people 'ox'"),
        ("start,end,depart,count\nS1,S2,0,1000000000\n", "10,000,000 vehicles"),
        ("start,end,depart,count\nS1,S2,0,0\n", "count must be 1 or more"),
        ("start,end,depart\nS1,east,0\n", "neither a structure like S12 nor a cell like 14:9"),
    ],
)
def test_bad_trips_are_one_clear_line_and_nothing_is_done(
    run,  # type: ignore[no-untyped-def]
    plan: Path,
    tmp_path: Path,
    text: str,
    words: str,
) -> None:
    trips, out = tmp_path / "trips.csv", tmp_path / "trace.csv"
    trips.write_text(text)
    got = run("traffic", plan, "--seconds", "5", "--trips", trips, "--trace", out)
    assert got.code == 2
    assert words in got.err
    assert not out.exists()


def test_bad_times_are_refused(run, plan: Path, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    for options, words in (
        (["--seconds", "-1"], "a run must be 0 to 604800 seconds"),
        (["--seconds", "nan"], "a run must be"),
        (["--seconds", "5", "--step", "0"], "a step must be 0.001 to 0.5 seconds"),
        (["--seconds", "5", "--trace-every", "1"], "--trace-every says how often"),
        (["--seconds", "5", "--trace", str(tmp_path)], "is a folder"),
    ):
        got = run("traffic", plan, *options)
        assert got.code == 2, options
        assert words in got.err


def test_a_trace_that_cannot_be_written_leaves_the_old_one(
    run,  # type: ignore[no-untyped-def]
    plan: Path,
    trips: Path,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    out = tmp_path / "trace.csv"
    out.write_text("old")

    def full(_handle: int, _data: bytes) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("woven_locus.files.atomic._write_all", full)
    got = run("traffic", plan, "--seconds", "5", "--trips", trips, "--trace", out)
    assert got.code == 2
    assert "No space left" in got.err
    assert out.read_text() == "old"
    assert sorted(path.name for path in tmp_path.iterdir()) == [
        "town.plan.json",
        "trace.csv",
        "trips.csv",
    ]


def test_vehicles_that_have_no_room_are_refused(run, plan: Path) -> None:  # type: ignore[no-untyped-def]
    loaded = plan_json.load(plan)
    wide = VehicleKind("wain", "Wain", "#A5383F", 4.0, 9.0, 12.0, 6.0, 8.0, 1.0, 1.0)
    History(loaded).do(add_vehicle(loaded, wide))
    plan_json.save(loaded, plan)
    got = run("traffic", plan, "--seconds", "5")
    assert got.code == 2
    assert "Wain is 9 wide; a lane of Road has room for" in got.err


def test_a_cell_is_no_end_where_one_can_only_turn(run, plan: Path, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    loaded = plan_json.load(plan)
    trips = tmp_path / "trips.csv"
    last = Cell(4, 0)
    trips.write_text(f"start,end,depart\nS1,{last.col}:{last.row},0\n")
    got = run("traffic", plan, "--seconds", "60", "--trips", trips)
    # The road ends there: one drives up to where one would turn about.
    assert got.value["arrived"] == 1
    assert loaded.road[loaded.spec.slot(last)]


def test_trips_are_brought_in_and_taken_out(run, plan: Path, trips: Path, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    got = run("import", plan, trips, "--as", "trips-csv")
    assert (got.code, got.value["trips"], got.value["vehicles"]) == (0, 2, 6)
    out = tmp_path / "out.csv"
    assert run("export", plan, "--as", "trips-csv", "--out", out).code == 0
    assert out.read_text() == TRIPS.replace("1.5,,,", "1.5,,0,1")
    trips.write_text("start,end,depart\nS1,S99,0\n")
    before = plan.read_bytes()
    assert run("import", plan, trips, "--as", "trips-csv").code == 2
    assert plan.read_bytes() == before
