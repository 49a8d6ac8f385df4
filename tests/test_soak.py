"""Very many random edits: everything that is kept current equals what a rebuild from scratch gives.

`make test` does some; `make soak` does a hundred thousand.
"""

import os

import numpy as np
import pytest

from tests.helpers.builders import KINDS
from tests.helpers.random_steps import random_step
from tests.helpers.state import assert_derived_is_current, recorded
from woven_locus.core.books import Account, Funds
from woven_locus.core.editing import Notice
from woven_locus.core.geometry import Cell
from woven_locus.core.grid import GridSpec
from woven_locus.core.kinds import Catalogue
from woven_locus.core.placing import Feasibility
from woven_locus.core.plan import Plan
from woven_locus.demo import open_demo
from woven_locus.document import Document
from woven_locus.document.starter import starter_terrain
from woven_locus.files import plan_json

EDITS = int(os.environ.get("SOAK_EDITS", "600"))
# After so many edits all is compared; undo then goes back no further than to the last comparison.
EVERY = 300


# With the plain kernels an edit takes half a second once the map is full.
@pytest.mark.usefixtures("compiled_kernels")
def test_random_edits_leave_what_a_rebuild_gives() -> None:
    rng = np.random.default_rng(20260)
    table = starter_terrain()
    spec = GridSpec(40, 30, 2.0, 3.0, -7.0, 11.0, first_col=-5, first_row=3)
    terrain = rng.integers(0, len(table), spec.shape).astype(np.uint8)
    terrain[rng.random(spec.shape) < 0.6] = 0
    plan = Plan(
        "Soak",
        spec,
        table,
        Catalogue([*open_demo().kinds, *KINDS]),
        terrain=terrain,
        funds=Funds(100_000),
    )
    done = 0
    placed = 0
    while done < EDITS:
        document = Document(plan)
        document.links()
        _ = plan.lanes.graph
        document.unsound()
        kind = list(plan.kinds)[int(rng.integers(len(plan.kinds)))]
        turn = int(rng.choice(kind.all_turns))
        held = [Feasibility(plan, kind, turn)]

        def follow(notice: Notice, held: list[Feasibility] = held, turn: int = turn) -> None:
            old = held[0].kind
            if held[0].is_void(notice):
                key = old.key if old.key in plan.kinds else plan.kinds.keys()[0]
                held[0] = Feasibility(plan, plan.kinds[key], turn)
            else:
                held[0].update(notice)

        document.history.listen(follow)
        for _ in range(min(EVERY, EDITS - done)):
            random_step(plan, document.history, rng, calm=True)
            done += 1
        placed = max(placed, len(plan.register))
        _compare(document, held[0], turn)
        before = recorded(plan)
        position = document.history.position
        document.history.go_to(0)
        document.history.go_to(position)
        assert recorded(plan) == before
    assert placed > 5  # there was something to compare


def _compare(document: Document, found: Feasibility, turn: int) -> None:
    plan = document.plan
    assert_derived_is_current(plan)
    fresh = Document(plan_json.parse(recorded(plan)))
    assert list(fresh.plan.register) == list(plan.register)
    covered = {cell for row in plan.register for cell in plan.cells_of(row)}
    assert covered == {
        plan.spec.cell_of_slot(slot) for slot in np.argwhere(plan.occupant > 0).tolist()
    }
    assert all(isinstance(cell, Cell) for cell in covered)
    for kind in plan.kinds:
        count = sum(row.kind == kind.key for row in plan.register)
        assert plan.register.count(kind.key) == count
    assert document.unsound() == fresh.unsound()
    assert document.links() == fresh.links()
    assert plan.account.balance == Account(plan.register, plan.kinds, plan.funds).balance
    again = Feasibility(plan, found.kind, turn)
    np.testing.assert_array_equal(found.why, again.why)
    np.testing.assert_array_equal(found.fits, again.fits)
    assert (found.free, found.free_any, found.always) == (again.free, again.free_any, again.always)
