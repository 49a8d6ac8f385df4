"""What a file holds is told from its name and its beginning."""

from pathlib import Path

import pytest

from woven_locus.cli.main import main
from woven_locus.core.errors import FileProblem
from woven_locus.demo import NAMES, open_demo
from woven_locus.files import formats, plan_json
from woven_locus.files.sniff import HEIGHTS, KINDS, PLAN, what_is


@pytest.mark.parametrize("name", NAMES)
def test_all_that_is_taken_out_is_known_again(name: str, tmp_path: Path) -> None:
    path = tmp_path / "a.plan.json"
    plan = open_demo(name)
    plan_json.save(plan, path)
    assert what_is(path) == PLAN
    wanted = {
        "terrain-png": formats.TERRAIN_PNG,
        "kinds-json": KINDS,
        "kinds-csv": KINDS,
        "register-csv": formats.REGISTER_CSV,
        "trips-csv": formats.TRIPS_CSV,
        **{form: form for form in formats.WAVE_IMPORTS},
    }
    if plan.heights is not None:
        wanted |= dict.fromkeys(("heights-asc", "heights-png8", "heights-png16"), HEIGHTS)
    for form, what in wanted.items():
        out = tmp_path / f"{form}{formats.FORMATS[form].suffix}"
        assert main(["export", str(path), "--as", form, "--out", str(out)]) == 0
        assert what_is(out) == what, form


@pytest.mark.parametrize(
    ("name", "text", "why"),
    [
        ("a.csv", "a,b,c\n", "the head of no table"),
        ("a.csv", "", "the head of no table"),
        ("a.doc", "", "nothing that can be opened"),
        ("none.png", None, "cannot be read"),
    ],
)
def test_what_is_none_of_it_is_said(tmp_path: Path, name: str, text: str, why: str) -> None:
    if text is not None:
        (tmp_path / name).write_text(text)
    with pytest.raises(FileProblem, match=why):
        what_is(tmp_path / name)
