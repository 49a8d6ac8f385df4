"""Trials: what is asked, what a row says, and who does the runs."""

import csv
import json
import os
import signal
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

import pytest

from tests.helpers import patience
from tests.helpers.builders import put
from woven_locus.cli.main import main
from woven_locus.core.errors import FileProblem
from woven_locus.files import plan_json
from woven_locus.trial import runs, workers
from woven_locus.trial.spec import NOTES, load
from woven_locus.trial.table import Table


def spec(folder: Path, text: str) -> Path:
    path = folder / "trial.toml"
    path.write_text(text)
    return path


TRAFFIC = """
plan = "town.plan.json"
run = "traffic"
seconds = 20
note = ["wanted", "arrived", "mean_trip", "digest"]
[vary]
seed = "0..3"
keep = ["right", "left"]
"""


def program(*words: object) -> list[str]:
    return [sys.executable, "-m", "woven_locus", "trial", *map(str, words)]


def go(*words: object) -> tuple[int, Any, str]:
    done = subprocess.run(program(*words), capture_output=True, text=True, check=False)
    return done.returncode, json.loads(done.stdout) if done.stdout else None, done.stderr


def rows_of(path: Path) -> list[dict[str, str]]:
    with path.open(encoding="utf-8", newline="") as file:
        return list(csv.DictReader(file))


def test_a_row_for_each_run_in_order_whoever_does_it(folder: Path) -> None:
    asked, out = spec(folder, TRAFFIC), folder / "out.csv"
    code, said, err = go(asked, "--out", out, "--workers", 1)
    assert (code, err) == (0, "")
    assert said == {"out": str(out), "runs": 8, "done": 8, "kept": 0, "failed": 0}
    rows = rows_of(out)
    assert list(rows[0]) == [
        "seed",
        "keep",
        "wanted",
        "arrived",
        "mean_trip",
        "digest",
        "plan_digest",
        "problem",
    ]
    assert [(row["seed"], row["keep"]) for row in rows] == [
        (str(seed), side) for seed in range(4) for side in ("right", "left")
    ]
    # What the verb of the same name says.
    verb = subprocess.run(
        [
            sys.executable,
            "-m",
            "woven_locus",
            "traffic",
            folder / "town.plan.json",
            "--seconds",
            "20",
            "--seed",
            "2",
        ],
        capture_output=True,
        text=True,
        check=False,
    )
    answer = json.loads(verb.stdout)
    (row,) = [row for row in rows if (row["seed"], row["keep"]) == ("2", "right")]
    assert row["digest"] == answer["digest"]
    assert json.loads(row["mean_trip"]) == answer["mean_trip"]
    assert len({row["digest"] for row in rows}) > 4
    several = folder / "several.csv"
    assert go(asked, "--out", several, "--workers", 2)[0] == 0
    assert several.read_bytes() == out.read_bytes()


def test_a_killed_trial_goes_on_where_it_was(folder: Path) -> None:
    asked, whole, out = spec(folder, TRAFFIC), folder / "whole.csv", folder / "out.csv"
    assert go(asked, "--out", whole, "--workers", 1)[0] == 0
    process = subprocess.Popen(program(asked, "--out", out, "--workers", 1), stdout=subprocess.PIPE)
    while not out.exists() or len(out.read_bytes().splitlines()) < 4:
        assert process.poll() is None
    process.kill()
    process.communicate()
    # As if it had died within a row.
    out.write_bytes(out.read_bytes() + b'3,"ri')
    there = len(rows_of(out)) - 1
    code, said, _err = go(asked, "--out", out, "--workers", 1)
    assert (code, said["kept"], said["done"]) == (0, there, 8)
    assert out.read_bytes() == whole.read_bytes()
    # Nothing is left to do; another trial is not mixed in.
    assert go(asked, "--out", out)[1]["kept"] == 8
    spec(folder, TRAFFIC.replace("0..3", "1..4"))
    code, _said, err = go(asked, "--out", out)
    assert code == 2
    assert "holds something other than this trial" in err
    assert out.read_bytes() == whole.read_bytes()
    assert go(asked, "--out", out, "--force", "--workers", 1)[1]["kept"] == 0


def test_rows_of_a_plan_that_was_edited_since_are_not_mixed_with_new_ones(folder: Path) -> None:
    text = TRAFFIC.replace('"0..3"', "[1, 2]")
    asked, out = spec(folder, text), folder / "out.csv"
    assert go(asked, "--out", out, "--workers", 1)[0] == 0
    # Stopped after a row; then somebody works on.
    old = b"".join(out.read_bytes().splitlines(keepends=True)[:2])
    out.write_bytes(old)
    town = plan_json.load(folder / "town.plan.json")
    put(town, "hut", 4, 0)
    plan_json.save(town, folder / "town.plan.json")
    code, _said, err = go(asked, "--out", out)
    assert code == 2
    assert f"{out}: row 1: has rows of town.plan.json as it is no more" in err
    assert out.read_bytes() == old
    assert go(asked, "--out", out, "--workers", 1, "--force")[0] == 0
    # The same plan over another time.
    spec(folder, text.replace("seconds = 20", "seconds = 21"))
    assert go(asked, "--out", out)[0] == 2


def test_two_trials_do_not_write_one_table(folder: Path) -> None:
    asked, path = load(spec(folder, TRAFFIC)), folder / "out.csv"
    late = Table(asked, path)
    with Table(asked, path).writing() as add:
        before = path.read_bytes()
        code, _said, err = go(folder / "trial.toml", "--out", path, "--force")
        assert code == 2
        assert "is being written by another trial" in err
        assert path.read_bytes() == before
        add(["0", "right", "1", "1", "1.0", "x", "x", ""])
    after = path.read_bytes()
    with pytest.raises(FileProblem, match="by another program just now"), late.writing():
        pass
    assert path.read_bytes() == after


def test_plans_of_one_name_are_told_apart(folder: Path) -> None:
    for name in ("east", "west"):
        (folder / name).mkdir()
        (folder / name / "town.plan.json").write_bytes((folder / "town.plan.json").read_bytes())
    text = 'plan = ["east", "west"]\nrun = "proof"\nnote = ["findings"]\n'
    assert go(spec(folder, text), "--out", folder / "out.csv", "--workers", 1)[0] == 0
    names = [row["plan"] for row in rows_of(folder / "out.csv")]
    assert names == ["east/town.plan.json", "west/town.plan.json"]


def test_one_that_is_stopped_says_how_far_it_came(folder: Path) -> None:
    asked, out = spec(folder, TRAFFIC.replace("0..3", "0..400")), folder / "out.csv"
    process = subprocess.Popen(
        program(asked, "--out", out, "--workers", 1),
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        text=True,
    )
    while not out.exists() or len(out.read_bytes().splitlines()) < 3:
        assert process.poll() is None
    process.send_signal(signal.SIGINT)
    said, err = process.communicate(timeout=patience.SECONDS)
    assert process.returncode == 1
    assert "run the same again to go on" in err
    assert json.loads(said)["done"] == len(rows_of(out))


def test_an_interrupt_that_nobody_was_told_of_stops_it_all_the_same(
    folder: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    """As in a callback of the interpreter, where an exception is only printed."""
    real, done = runs.outcome, 0

    def interrupted(*job: Any) -> list[str]:
        nonlocal done
        done += 1
        if done == 3:
            with suppress(KeyboardInterrupt):
                signal.raise_signal(signal.SIGINT)
        return real(*job)

    monkeypatch.setattr(runs, "outcome", interrupted)
    asked, out = spec(folder, TRAFFIC), folder / "out.csv"
    before = signal.getsignal(signal.SIGINT)
    assert main(["trial", str(asked), "--out", str(out), "--workers", "1"]) == 1
    assert "stopped after 3 of 8 runs; run the same again to go on" in capsys.readouterr().err
    assert len(out.read_text().splitlines()) == 4
    assert signal.getsignal(signal.SIGINT) is before


def test_a_run_that_fails_is_a_row_that_says_so(folder: Path) -> None:
    (folder / "broken.plan.json").write_text("{")
    text = TRAFFIC.replace('"town.plan.json"', '["town.plan.json", "broken.plan.json"]')
    text = text.replace('"0..3"', "[1]").replace(
        '"wanted"', '"wanted", "junctions.0.passed", "nothing"'
    )
    code, said, err = go(spec(folder, text), "--out", folder / "out.csv", "--workers", 1)
    assert (code, err, said["failed"], said["done"]) == (1, "", 4, 4)
    rows = rows_of(folder / "out.csv")
    assert [row["plan"] for row in rows] == ["town.plan.json"] * 2 + ["broken.plan.json"] * 2
    assert rows[0]["problem"] == "the answer has no nothing"
    assert "broken.plan.json" in rows[2]["problem"]


def test_what_can_be_varied_is_varied(folder: Path) -> None:
    town, pass_ = (
        (folder / name).read_bytes() for name in ("town.plan.json", "thornmoth.plan.json")
    )
    plan = runs.with_settings(
        town, "town", {"vehicles": 2.5, "keep": "left", "prices": 3, "opening": 99}
    )
    assert [trip.count for trip in plan.traffic.trips] == [10]
    assert [rule.count for rule in plan.traffic.rules] == [8]
    assert plan.keep.value == "left"
    assert plan.kinds["hut"].price == 3 * plan_json.parse(town).kinds["hut"].price
    assert plan.funds is not None
    assert plan.funds.opening == 99
    assert runs.with_settings(town, "town", {"vehicles": 0}).traffic.trips == ()
    larger = runs.with_settings(town, "town", {"junctions": "larger"})
    assert [rule.cell for rule in larger.traffic.junctions] == [(2, 1)]
    assert runs.with_settings(town, "town", {"junctions": "first"}).traffic.junctions == ()
    waves = runs.with_settings(pass_, "pass", {"attackers": 2, "health": 0.5, "lives": 3}).waves
    old = plan_json.parse(pass_).waves
    assert waves.lives == 3
    assert [g.count for wave in waves.waves for g in wave.groups] == [
        2 * g.count for wave in old.waves for g in wave.groups
    ]
    assert [kind.health for kind in waves.attackers] == [kind.health / 2 for kind in old.attackers]


def test_waves_and_proofs_are_tried(folder: Path) -> None:
    text = 'plan = "thornmoth.plan.json"\nrun = "waves"\n[vary]\nlives = [1, 5000]\nseed = [3]\n'
    assert go(spec(folder, text), "--out", folder / "waves.csv", "--workers", 1)[0] == 0
    rows = rows_of(folder / "waves.csv")
    assert list(rows[0]) == ["lives", "seed", *NOTES["waves"], "plan_digest", "problem"]
    assert int(rows[1]["outcome.lives"]) > int(rows[0]["outcome.lives"])
    text = 'plan = "."\nrun = "proof"\nnote = ["counts.error", "findings"]\n'
    assert go(spec(folder, text), "--out", folder / "proof.csv", "--workers", 1)[0] == 0
    rows = rows_of(folder / "proof.csv")
    assert [row["plan"] for row in rows] == ["thornmoth.plan.json", "town.plan.json"]
    assert all(int(row["findings"]) >= int(row["counts.error"]) for row in rows)


@contextmanager
def dask(count: int) -> Iterator[tuple[str, list[subprocess.Popen[bytes]]]]:
    """A scheduler on the loopback, with workers."""
    pytest.importorskip("distributed")
    command = [
        sys.executable,
        "-m",
        "distributed.cli.dask_scheduler",
        "--host",
        "127.0.0.1",
        "--port",
        "0",
        "--no-dashboard",
    ]
    scheduler = subprocess.Popen(command, stderr=subprocess.PIPE, text=True)
    assert scheduler.stderr is not None
    address = ""
    for text in scheduler.stderr:
        if "Scheduler at:" in text:
            address = text.split()[-1]
            break
    command = [
        sys.executable,
        "-m",
        "distributed.cli.dask_worker",
        address,
        "--no-nanny",
        "--nthreads",
        "1",
        "--no-dashboard",
    ]
    hands = [
        subprocess.Popen(
            command, stderr=subprocess.DEVNULL, stdout=subprocess.DEVNULL, env=os.environ
        )
        for _ in range(count)
    ]
    try:
        yield address, hands
    finally:
        for process in [*hands, scheduler]:
            process.kill()
            process.communicate()


def test_a_cluster_gives_the_same_rows_though_a_worker_is_killed(folder: Path) -> None:
    asked, here, out = (
        spec(folder, TRAFFIC.replace("0..3", "0..9")),
        folder / "here.csv",
        folder / "out.csv",
    )
    assert go(asked, "--out", here, "--workers", 1)[0] == 0
    with dask(2) as (address, hands):
        process = subprocess.Popen(
            program(asked, "--out", out, "--scheduler", address),
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            text=True,
        )
        while not out.exists() or len(out.read_bytes().splitlines()) < 4:
            assert process.poll() is None, process.communicate()
        hands[0].kill()
        said, err = process.communicate(timeout=patience.SECONDS)
        assert process.returncode == 0, err
        assert json.loads(said)["done"] == 20
    assert out.read_bytes() == here.read_bytes()


def test_runs_come_in_order_and_a_quoted_problem_is_one_row(folder: Path) -> None:
    def work(_data: bytes, name: str, *_rest: object) -> list[str]:
        return [name, 'said\n"so", twice']

    jobs = [(b"", str(k), "proof", {}, ()) for k in range(3)]
    assert [row[0] for row in workers.local(jobs, work, 1)] == ["0", "1", "2"]  # type: ignore[arg-type]
    asked = load(
        spec(
            folder,
            'plan = "town.plan.json"\nrun = "proof"\nnote = ["findings"]\n[vary]\nseed = "0..2"\n',
        )
    )
    table = Table(asked, folder / "t.csv")
    made_of = runs.digest((folder / "town.plan.json").read_bytes(), "proof", asked.seconds)
    with table.writing() as add:
        add(["0", "4", made_of, 'said\n"so", twice'])
    assert Table(asked, folder / "t.csv").done == 1
