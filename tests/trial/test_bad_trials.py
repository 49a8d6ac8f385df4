"""A trial that cannot be run says so in one line."""

from pathlib import Path
from typing import Any

import pytest

from tests.trial.test_trial import TRAFFIC, spec
from woven_locus.cli.main import main


@pytest.mark.parametrize(
    ("text", "place"),
    [
        ("plan = ", "is no TOML"),
        ('run = "traffic"', "plan: "),
        ('plan = "town.plan.json"\nrun = "race"', "run: "),
        ('plan = "gone.plan.json"\nrun = "traffic"', "plan: there is no "),
        ('plan = "town.plan.json"\nrun = "traffic"\nseconds = -1', "seconds: "),
        ('plan = "town.plan.json"\nrun = "traffic"\nlaps = 3', "laps: is unknown"),
        ('plan = "town.plan.json"\nrun = "traffic"\nnote = "digest"', "note: "),
        ('plan = "town.plan.json"\nrun = "traffic"\n[vary]\nlives = [3]', "vary.lives: "),
        ('plan = "town.plan.json"\nrun = "traffic"\n[vary]\nseed = "9..1"', "vary.seed: "),
        ('plan = "town.plan.json"\nrun = "traffic"\n[vary]\nseed = [1.5]', "vary.seed: "),
        ('plan = "town.plan.json"\nrun = "traffic"\n[vary]\nkeep = ["up"]', "vary.keep: "),
        ('plan = "town.plan.json"\nrun = "traffic"\n[vary]\nkeep = []', "vary.keep: "),
        (
            'plan = "town.plan.json"\nrun = "proof"\n[vary]\nseed = "0..999999"\nprices = [1, 2]',
            "vary: 2,000,000 runs",
        ),
    ],
)
def test_a_bad_trial_is_one_line(folder: Path, text: str, place: str, capsys: Any) -> None:

    code = main(["trial", str(spec(folder, text)), "--out", str(folder / "out.csv")])
    out, err = capsys.readouterr()
    assert (code, out) == (2, "")
    assert len(err.splitlines()) == 1
    assert place in err
    assert not (folder / "out.csv").exists()


def test_bad_usage(folder: Path, capsys: Any) -> None:

    asked = spec(folder, TRAFFIC)
    assert main(["trial", str(asked), "--out", str(folder)]) == 2
    assert (
        main(
            [
                "trial",
                str(asked),
                "--out",
                "x.csv",
                "--workers",
                "2",
                "--scheduler",
                "tcp://127.0.0.1:1",
            ]
        )
        == 2
    )
    assert main(["trial", str(folder / "none.toml"), "--out", "x.csv"]) == 2
    assert "none.toml" in capsys.readouterr().err
    (folder / "other.csv").write_text("a,b\n1,2\n")
    assert main(["trial", str(asked), "--out", str(folder / "other.csv")]) == 2
    assert (folder / "other.csv").read_text() == "a,b\n1,2\n"
