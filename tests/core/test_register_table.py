"""The register as a table, without a window."""

from __future__ import annotations

import pytest

from tests.helpers.builders import draw, put
from woven_locus.core.plan import Plan
from woven_locus.core.register_table import (
    TITLES,
    Column,
    Filter,
    Heading,
    Known,
    State,
    passing,
    under_headings,
    value,
)


@pytest.fixture
def plan() -> Plan:
    made = draw("..........\n..........\n..........\n..........")
    put(made, "barn", 0, 0)
    put(made, "hut", 5, 3)
    put(made, "hut", 4, 0)
    put(made, "hut", 9, 1)
    return made


def known(
    unsound: tuple[int, ...] = (), cut_off: tuple[int, ...] = (), chosen: tuple[int, ...] = ()
) -> Known:
    return Known(lambda: unsound, lambda number: number not in cut_off, lambda: chosen)


def nobody() -> Known:
    """What may not be asked."""

    def asked(*_what: object) -> object:
        raise AssertionError("this need not be asked")

    return Known(asked, asked, asked)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("wanted", "expected"),
    [
        (Filter(), [1, 2, 3, 4]),
        (Filter("hut"), [2, 3, 4]),
        (Filter("S3"), [3]),
        (Filter("s3"), [3]),
        (Filter("5, 3"), [2]),
        (Filter("nothing"), []),
        (Filter(kind="barn"), [1]),
        (Filter("4, 0", kind="barn"), []),
    ],
)
def test_a_filter_looks_at_number_kind_and_cell(
    plan: Plan, wanted: Filter, expected: list[int]
) -> None:
    assert passing(plan, wanted, nobody()) == expected


@pytest.mark.parametrize(
    ("state", "expected"),
    [
        (State.SOUND, [1, 3, 4]),
        (State.UNSOUND, [2]),
        (State.JOINED, [1, 2]),
        (State.CUT_OFF, [3, 4]),
        (State.CHOSEN, [3]),
        (State.ALL, [1, 2, 3, 4]),
    ],
)
def test_a_filter_knows_states(plan: Plan, state: State, expected: list[int]) -> None:
    about = known(unsound=(2,), cut_off=(3, 4), chosen=(3, 99))
    assert passing(plan, Filter(state=state), about) == expected


@pytest.mark.parametrize(
    ("column", "expected"),
    [
        (Column.NO, [1, 2, 3, 4]),
        (Column.CELL, [1, 3, 4, 2]),  # by row, then column
        (Column.KIND, [1, 2, 3, 4]),  # equal ones by number
        (Column.CELLS, [2, 3, 4, 1]),
        (Column.PRICE, [2, 3, 4, 1]),
        (Column.ROAD, [2, 1, 3, 4]),
    ],
)
def test_each_column_sorts_by_its_value(plan: Plan, column: Column, expected: list[int]) -> None:
    about = known(cut_off=(2,))
    assert passing(plan, Filter(), about, column) == expected
    down = passing(plan, Filter(), about, column, down=True)
    keys = [value(plan, plan.register[n], column, about)[1] for n in down]
    assert keys == sorted(keys, reverse=True)
    assert sorted(down) == [1, 2, 3, 4]


def test_a_row_in_words(plan: Plan) -> None:
    row = plan.register[1]
    texts = [value(plan, row, column, known(cut_off=(1,)))[0] for column in Column]
    assert len(texts) == len(TITLES)
    assert texts[:3] == ["S1", "Barn", "0, 0"]
    assert texts[Column.CELLS] == "6"
    assert texts[Column.CENTRE] == "1.5, 1"
    assert texts[Column.ROAD] == "cut off"


def test_groups_stand_in_the_order_of_the_catalogue(plan: Plan) -> None:
    rows = under_headings(plan, [4, 3, 1, 2], {"barn"})
    assert rows == [Heading("hut", 3), 4, 3, 2, Heading("barn", 1)]
    assert under_headings(plan, [], ()) == []


def test_only_a_filter_that_does_nothing_is_plain() -> None:
    assert Filter().plain
    assert Filter(folded=frozenset({"hut"})).plain
    for other in (
        Filter("a"),
        Filter(kind="hut"),
        Filter(state=State.CHOSEN),
        Filter(grouped=True),
    ):
        assert not other.plain
