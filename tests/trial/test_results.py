"""The rows of a trial, read while it is written, and how their figures spread."""

from pathlib import Path

import numpy as np
import numpy.testing as npt
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.helpers.builders import draw
from woven_locus.core.errors import FileProblem
from woven_locus.files import plan_json
from woven_locus.trial.results import Results, read_results, setting, spreads
from woven_locus.trial.runs import digest
from woven_locus.trial.spec import Spec, load


@pytest.fixture
def spec(tmp_path: Path) -> Spec:
    plan_json.save(draw("...."), tmp_path / "town.plan.json")
    path = tmp_path / "trial.toml"
    path.write_text(
        'plan = "town.plan.json"\nrun = "proof"\nnote = ["counts.note", "same"]\n'
        '[vary]\nkeep = ["right", "left"]\nseed = "0..1"\n'
    )
    return load(path)


def table(spec: Spec, rows: list[str], mark: str = "") -> Path:
    path = spec.plans[0].with_name("trial.csv")
    made_of = mark or digest(spec.plans[0].read_bytes(), spec.run, spec.seconds)
    lines = [",".join(spec.columns), *(f"{row},{made_of}," for row in rows)]
    path.write_text("\n".join(lines))
    return path


def test_rows_are_read_as_far_as_they_are_whole(spec: Spec) -> None:
    assert read_results(spec, spec.plans[0].with_name("none.csv")).rows == ()
    path = table(spec, ["right,0,3,true", "right,1,,false", "left,0,5"])
    found = read_results(spec, path)
    assert found.columns == ("keep", "seed", "counts.note", "same", "problem")
    assert found.rows == (("right", "0", "3", "true", ""), ("right", "1", "", "false", ""))
    assert found.stale == frozenset()
    npt.assert_array_equal(found.numbers("counts.note"), [3, np.nan])
    npt.assert_array_equal(found.numbers("same"), [1, 0])
    assert (found.is_numeric("seed"), found.is_numeric("keep")) == (True, False)
    assert found.groups("keep") == {"right": [0, 1]}
    assert (found.short("counts.note"), found.short("keep")) == ("note", "keep")
    assert setting(spec, 1) == (spec.plans[0], {"keep": "right", "seed": 1})
    assert setting(spec, 2)[1] == {"keep": "left", "seed": 0}


def test_rows_of_another_plan_are_stale_and_another_table_is_refused(spec: Spec) -> None:
    path = table(spec, ["right,0,3,true", ""], mark="0123456789abcdef")
    path.write_text(path.read_text()[: path.read_text().rindex("\n") + 1])
    assert read_results(spec, path).stale == {0}
    path.write_text("a,b\n1,2\n")
    with pytest.raises(FileProblem, match="something other"):
        read_results(spec, path)
    path.write_text(",".join(spec.columns) + "\nright,0\n")
    with pytest.raises(FileProblem, match="row 1"):
        read_results(spec, path)


def of(values: list[str]) -> Results:
    return Results(("by", "figure"), tuple(("one", value) for value in values), frozenset())


def test_a_box_is_what_tukey_draws() -> None:
    (box,) = spreads(of(["1", "2", "3", "4", "100", "", "null"]), "figure", "by")
    assert (box.name, box.count) == ("one", 5)
    assert (box.first, box.middle, box.third) == (2, 3, 4)
    assert (box.low, box.high, box.far) == (1, 4, (100,))
    assert spreads(of(["", "none"]), "figure", "by") == []


@given(st.lists(st.floats(-1e6, 1e6), min_size=1, max_size=40))
def test_every_value_is_in_the_box_or_beyond_it(values: list[float]) -> None:
    (box,) = spreads(of([repr(value) for value in values]), "figure", "by")
    assert box.low <= box.first <= box.middle <= box.third <= box.high
    assert box.count == len(values)
    within = [value for value in values if box.low <= value <= box.high]
    assert sorted([*within, *box.far]) == sorted(values)
