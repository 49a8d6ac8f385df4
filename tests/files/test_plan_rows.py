"""Rows of the plan document: every value comes back from its row, and what a row cannot be is named."""

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.helpers.strategies import demands, grids, kinds, plans, windows, words
from woven_locus.core.books import Funds, Gone
from woven_locus.core.errors import BadPlan
from woven_locus.core.geometry import Cell
from woven_locus.core.grid import GridSpec
from woven_locus.core.kinds import Demands, Kind
from woven_locus.core.plan import Plan
from woven_locus.core.register import Structure
from woven_locus.files.kind_rows import KindRow, RulesRow
from woven_locus.files.plan_rows import (
    FundsRow,
    GridRow,
    ObstacleRow,
    RoadRow,
    StructureRow,
    TerrainRow,
    WindowRow,
)
from woven_locus.files.row_values import Strict, num


def through_json(row: Strict) -> object:
    return msgspec.json.decode(msgspec.json.encode(row), type=type(row))


@given(grids())
def test_a_grid_comes_back(spec: GridSpec) -> None:
    assert through_json(GridRow.of(spec)).made() == spec  # type: ignore[attr-defined]


@given(st.data(), grids())
def test_a_window_comes_back(data: st.DataObject, spec: GridSpec) -> None:
    window = data.draw(windows(spec))
    assert through_json(WindowRow.of(window)).made() == window  # type: ignore[attr-defined]


@given(kinds("some-kind"))
def test_a_kind_comes_back(kind: Kind) -> None:
    assert through_json(KindRow.of(kind)).made("kinds[0]") == kind  # type: ignore[attr-defined]


@given(demands)
def test_what_a_kind_asks_comes_back(asked: Demands) -> None:
    assert through_json(RulesRow.of(asked)).made() == asked  # type: ignore[attr-defined]


@given(plans(6))
def test_classes_and_obstacles_come_back(plan: Plan) -> None:
    for item in plan.terrain_table:
        assert through_json(TerrainRow.of(item)).made("terrain[0]") == item  # type: ignore[attr-defined]
    for road in plan.road_table:
        assert through_json(RoadRow.of(road)).made("road_classes[0]") == road  # type: ignore[attr-defined]
    for obstacle in plan.obstacles.values():
        assert through_json(ObstacleRow.of(obstacle)).made() == obstacle  # type: ignore[attr-defined]


@given(
    st.builds(
        Structure,
        st.integers(1, 10**6),
        st.sampled_from(["hut", "barn"]),
        st.builds(Cell, st.integers(-(10**9), 10**9), st.integers(-(10**9), 10**9)),
        st.integers(0, 7),
        st.integers(0, 10**12),
        words,
        st.integers(0, 10**9),
    )
)
def test_a_structure_comes_back(row: Structure) -> None:
    made = through_json(StructureRow.of(row))
    assert made.made() == row  # type: ignore[attr-defined]
    # What is as it was before version 3 is left out.
    assert ("mirror" in msgspec.to_builtins(made)) is (row.turn > 3)


@given(st.integers(0, 10**9), st.integers(0, 100), st.integers(10, 10**6))
def test_funds_come_back_with_what_is_gone(opening: int, share: int, clock: int) -> None:
    gone = (Gone(1, 2, 3, 4, 5, 6, 7),)
    funds = Funds(opening, share, clock, gone)
    row = through_json(FundsRow.of(funds))
    assert row.made([tuple(each) for each in gone]) == funds  # type: ignore[attr-defined]


@pytest.mark.parametrize(
    ("value", "text"),
    [(1.0, "1"), (0.5, "0.5"), (-3.0, "-3"), (1e15, "1000000000000000.0"), (-0.0, "0")],
)
def test_whole_numbers_stand_without_a_point_as_long_as_nothing_is_lost(
    value: float, text: str
) -> None:
    assert msgspec.json.encode(num(value)).decode() == text
    assert num(value) == value


def test_a_colour_that_is_none_is_named_with_its_row() -> None:
    row = TerrainRow("a", "A", "a", True, True, 1, "red", "plain")
    with pytest.raises(BadPlan, match=r"terrain\[3\]: dye must be #RRGGBB, not 'red'"):
        row.made("terrain[3]")
