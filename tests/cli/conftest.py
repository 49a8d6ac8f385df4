"""A small town in a file, and the program run on it in this process."""

import json
from pathlib import Path

import pytest

from tests.helpers.builders import draw, put
from woven_locus.cli.main import main
from woven_locus.files import plan_json


@pytest.fixture
def plan(tmp_path: Path) -> Path:
    path = tmp_path / "town.plan.json"
    town = draw(
        """
        .......
        =======
        ..s....
        ...=...
        """,
        cell=(24, 16),
        first=(-2, -1),
    )
    put(town, "hut", -2, -1)
    put(town, "hut", 4, 1)
    put(town, "hut", 0, 2)
    plan_json.save(town, path)
    return path


class Answer:
    def __init__(self, code: int, out: str, err: str) -> None:
        self.code, self.err = code, err
        self.value = json.loads(out) if out else None


@pytest.fixture
def run(capsys: pytest.CaptureFixture[str]):  # type: ignore[no-untyped-def]
    def go(*args: object) -> Answer:
        code = main([str(arg) for arg in args])
        out, err = capsys.readouterr()
        assert "Traceback" not in err
        assert len(err.splitlines()) <= 1
        return Answer(code, out, err)

    return go
