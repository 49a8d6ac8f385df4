import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from woven_locus.core.errors import BadPlan
from woven_locus.files import runs

MARKS = ("m", "b", "S")
shapes = st.tuples(st.integers(1, 9), st.integers(1, 300))


@given(shapes.flatmap(lambda shape: hnp.arrays(np.uint8, shape, elements=st.integers(0, 2))))
def test_rows_go_there_and_back(layer: np.ndarray) -> None:
    rows = runs.encode(layer, MARKS)
    np.testing.assert_array_equal(runs.decode(rows, layer.shape, MARKS, "ground"), layer)


def test_runs_are_short_and_one_row_is_one_line() -> None:
    layer = np.array([[0] * 12 + [1] * 4 + [1, 0], [2] * 18], np.uint8)
    assert runs.encode(layer, MARKS) == ["12m5bm", "18S"]
    assert runs.encode(layer[:, ::-1], MARKS) == ["m5b12m", "18S"]


@pytest.mark.parametrize(
    ("rows", "words"),
    [
        (["4m"], "ground: has 1 rows, the grid has 2"),
        (["4m", "3m"], r"ground\[1\]: has 3 cells, the grid has 4 columns"),
        (["4m", "5m"], r"ground\[1\]: has 5 cells"),
        (["4m", ""], r"ground\[1\]: has 0 cells"),
        (["2m2x", "4m"], r"ground\[0\]: character 4: 'x' is no mark; .* one of m b S"),
        (["4m", "2m2"], r"ground\[1\]: character 3: a count with no mark behind it"),
        (["4m", "0m4m"], r"ground\[1\]: character 2: a run of 0 cells"),
        (["4m", "999999999m"], r"ground\[1\]: character 10: the count is too long"),
        (["4m", "99999999m"], r"ground\[1\]: has 99999999 cells"),
        (["4m", "4µ"], r"ground\[1\]: holds a character that is no digit or mark"),
        (["4m\n", "4m"], r"ground\[0\]: holds a character"),
        (["4m", "2m 2m"], r"ground\[1\]: character 3: ' ' is no mark"),
        (["4m", "-4m"], r"ground\[1\]: character 1: '-' is no mark"),
    ],
)
def test_broken_rows_are_named_with_row_and_character(rows: list[str], words: str) -> None:
    with pytest.raises(BadPlan, match=words):
        runs.decode(rows, (2, 4), MARKS, "ground")


@given(st.lists(st.text("0123456789mbSx.\n ", max_size=12), min_size=2, max_size=2))
def test_any_text_is_read_or_refused(rows: list[str]) -> None:
    try:
        layer = runs.decode(rows, (2, 4), MARKS, "ground")
    except BadPlan:
        return
    assert layer.shape == (2, 4)
    assert layer.max() < len(MARKS)
