"""Layers as tables and pictures, a value a cell, held against the plan itself."""

import csv
import io
from pathlib import Path

import numpy as np
import numpy.testing as npt
import pytest
from hypothesis import given, settings
from PIL import Image

from tests.helpers.builders import draw
from tests.helpers.depth import examples
from tests.helpers.strategies import plans
from woven_locus.cli.main import main
from woven_locus.core.geometry import Cell
from woven_locus.core.plan import Plan
from woven_locus.demo import open_demo
from woven_locus.files import plan_json, way_tables
from woven_locus.files.layer_tables import LAYER_PICTURES, LAYER_TABLES, layer_csv, layer_png


def _cells(plan: Plan, name: str) -> dict[Cell, str]:
    """By cell, from the names that the table itself gives its columns and rows."""
    head, *rows = csv.reader(io.StringIO(layer_csv(plan, name)))
    assert head[0] == "row"
    return {
        Cell(int(col), int(row[0])): value
        for row in rows
        for col, value in zip(head[1:], row[1:], strict=True)
    }


@settings(max_examples=examples(40), deadline=None)
@given(plans(8))
def test_each_cell_says_what_is_there(plan: Plan) -> None:
    keys = [item.key for item in plan.terrain_table]
    found = {name: _cells(plan, name) for name in LAYER_TABLES if name != "heights"}
    for cell, key in found["terrain"].items():
        slot = plan.spec.slot(cell)
        assert key == keys[plan.terrain[slot]]
        occupant = int(plan.occupant[slot])
        assert int(found["structures"][cell]) == max(occupant, 0)
        assert int(found["obstacles"][cell]) == max(-occupant, 0)
        assert int(found["reserved"][cell]) == plan.reserved[slot]
        assert int(found["barriers"][cell]) == plan.barrier[slot]
    # Road shapes are those of the list of road cells.
    listed = {
        Cell(int(row["col"]), int(row["row"])): row["number"]
        for row in csv.DictReader(io.StringIO(way_tables.road_shapes(plan)))
    }
    assert {cell: value for cell, value in found["road-shapes"].items() if value} == listed


@settings(max_examples=examples(25), deadline=None)
@given(plans(8))
def test_pictures_show_the_same_top_row_first(plan: Plan) -> None:
    for name in LAYER_PICTURES:
        values = list(_cells(plan, name).values())
        picture = Image.open(io.BytesIO(layer_png(plan, name)))
        pixels = np.asarray(picture).ravel()
        if name == "road-shapes":
            expected = [int(value) + 1 if value else 0 for value in values]
        else:
            expected = [255 if int(value) else 0 for value in values]
        npt.assert_array_equal(pixels, expected)


def test_heights_are_what_they_are_and_a_plan_without_is_told(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    plan = open_demo()
    assert plan.heights is not None
    for cell, text in _cells(plan, "heights").items():
        value = plan.heights[plan.spec.slot(cell)]
        assert (np.isnan(value) and text == "") or float(text) == value
    flat, out = tmp_path / "flat.plan.json", tmp_path / "out.csv"
    plan_json.save(draw("...."), flat)
    assert main(["export", str(flat), "--as", "heights-csv", "--out", str(out)]) == 2
    assert "this plan has no heights" in capsys.readouterr().err
    assert not out.exists()
    assert main(["export", str(flat), "--as", "terrain-csv", "--out", str(out)]) == 0
    assert out.read_text().splitlines()[0] == "row,0,1,2,3"
