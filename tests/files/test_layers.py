"""A layer is one row of the table: what is added there is saved, read, undone, copied, kept in the journal
and carried to another grid."""

from __future__ import annotations

import json
from collections.abc import Iterator
from importlib import resources

import jsonschema
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.helpers.builders import draw
from tests.helpers.strategies import plans
from woven_locus.core.editing import Edit, History, Keep, Patch, Regrid
from woven_locus.core.errors import BadPlan, FileProblem
from woven_locus.core.geometry import Cell
from woven_locus.core.layers import LAYERS, Layer, Rows, first_codes
from woven_locus.core.plan import Plan
from woven_locus.core.value import replace
from woven_locus.files import edit_pack, layer_rows, plan_json

DAMP = Layer(
    "damp",
    (Rows("damp", lambda _: (".", "d", "w"), ".dw", "Runs of d (damp), w (wet) and . (dry)."),),
    "of damp ground",
    known=lambda _: first_codes(3),
    unknown="is neither dry, damp nor wet",
    gathers=True,
)


@pytest.fixture
def damp() -> Iterator[None]:
    """One layer more, by one row and nothing else."""
    LAYERS.append(DAMP)
    yield
    LAYERS.remove(DAMP)


def wetted() -> tuple[Plan, History]:
    plan = draw("....\n....\n....")
    history = History(plan)
    patch = Patch.of_cells(plan, "damp", [Cell(1, 1), Cell(2, 1), Cell(9, 9)], 2)
    assert patch is not None
    history.do(Edit("Wetted the ground", (patch,)))
    return plan, history


def of(plan: Plan) -> list[list[int]]:
    return getattr(plan, "damp").tolist()  # type: ignore[no-any-return]  # noqa: B009


WET = [[0, 0, 0, 0], [0, 2, 2, 0], [0, 0, 0, 0]]


def test_a_layer_of_one_row_is_edited_undone_and_copied(damp: None) -> None:
    plan, history = wetted()
    snapshot, revision = plan.snapshot(), plan.revision
    assert of(plan) == WET
    history.undo()
    assert of(plan) == np.zeros((3, 4)).tolist()
    assert of(snapshot) == WET
    assert plan.revision > revision
    history.redo()
    assert of(plan) == WET


def test_a_layer_of_one_row_is_saved_and_read(damp: None) -> None:
    plan, _history = wetted()
    data = plan_json.dump(plan)
    assert json.loads(data)["damp"] == ["4.", ".2w.", "4."]
    assert of(plan_json.parse(data)) == WET
    jsonschema.validate(json.loads(data), plan_json.schema())
    # A document that was written before there was such a layer.
    older = json.loads(data)
    del older["damp"]
    assert of(plan_json.parse(json.dumps(older).encode())) == np.zeros((3, 4)).tolist()
    broken = json.loads(data) | {"damp": ["4.", ".2q.", "4."]}
    with pytest.raises(FileProblem, match=r"damp\[1\]: character 3: 'q' is no mark"):
        plan_json.parse(json.dumps(broken).encode())


def test_a_layer_of_one_row_is_kept_in_the_journal(damp: None) -> None:
    plan, other = draw("....\n...."), draw("....\n....")
    patch = Patch.of_cells(plan, "damp", [Cell(1, 1)], 2)
    assert patch is not None
    History(other).do(edit_pack.unpack(edit_pack.pack(Edit("Wetted", (patch,)))))
    assert of(plan) == [[0] * 4] * 2
    assert of(other) == [[0] * 4, [0, 2, 0, 0]]


def test_a_layer_of_one_row_goes_along_to_another_grid(damp: None) -> None:
    plan, _history = wetted()
    wider = replace(plan.spec, cols=2, rows=3)
    made, lost = Regrid(wider, Keep.INDEX).work_out(plan)
    assert of(made) == [[0, 0], [0, 2], [0, 0]]
    assert lost.cells["damp"] == 1


def test_a_layer_holds_only_what_its_row_knows(damp: None) -> None:
    plan, _history = wetted()
    wrong = np.full((3, 4), 3, np.uint8)
    with pytest.raises(BadPlan, match="damp rows: row 0, column 0 is neither dry, damp nor wet"):
        Plan("Test", plan.spec, plan.terrain_table, damp=wrong)


def test_without_its_row_there_is_no_such_layer() -> None:
    plan = draw("..")
    with pytest.raises(TypeError, match="no layer damp"):
        Plan("Test", plan.spec, plan.terrain_table, damp=np.zeros((1, 2), np.uint8))
    data = json.loads(plan_json.dump(plan)) | {"damp": [".."]}
    with pytest.raises(FileProblem, match="damp"):
        plan_json.parse(json.dumps(data).encode())
    with pytest.raises(ValueError, match="no layer 'damp'"):
        edit_pack.unpack(
            edit_pack.pack(
                Edit("", (Patch("damp", plan.spec.box, plan.reserved, plan.reserved + 1),))
            )
        )


def test_the_published_schema_holds_every_layer() -> None:
    """`python -m woven_locus.files.layer_rows` writes it."""
    text = resources.files("woven_locus.files").joinpath("plan.schema.json").read_text("utf-8")
    assert json.loads(text) == plan_json.schema()
    assert set(layer_rows.row_keys()) <= set(json.loads(text)["properties"])


@given(st.data())
def test_any_layer_comes_back_from_its_rows(data: st.DataObject) -> None:
    """The strategies read the table too."""
    extra = data.draw(st.booleans())
    if extra:
        LAYERS.append(DAMP)
    try:
        _comes_back(data.draw(plans()))
    finally:
        if extra:
            LAYERS.remove(DAMP)


def _comes_back(plan: Plan) -> None:
    rows = layer_rows.encode_beside(plan)()
    made = layer_rows.decode(rows, plan)
    for layer in LAYERS:
        recorded, read = getattr(plan, layer.name), made[layer.name]
        if read is None:
            assert recorded is None or not recorded.any()
        else:
            assert layer.same(recorded, read).all()
