"""Where structures open to the road: many at once as one by one."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.helpers.strategies import grids, kinds
from woven_locus.core.grid import GridSpec
from woven_locus.core.kinds import Catalogue, Kind
from woven_locus.core.plan import Plan
from woven_locus.core.register import Structure
from woven_locus.core.ways import doors
from woven_locus.document.starter import starter_terrain


@given(st.data(), grids(12), st.lists(kinds("k"), min_size=1, max_size=1))
def test_many_are_looked_at_as_one_is(
    data: st.DataObject, spec: GridSpec, made: list[Kind]
) -> None:
    plan = Plan("Doors", spec, starter_terrain(), Catalogue(made))
    rows = [
        Structure(
            number,
            "k",
            spec.first.moved(data.draw(st.integers(-2, 12)), data.draw(st.integers(-2, 12))),
            data.draw(st.sampled_from(made[0].all_turns)),
            0,
            "",
        )
        for number in range(1, data.draw(st.integers(1, 6)))
    ]
    one_by_one = doors.approach_slots(plan, rows)
    with pytest.MonkeyPatch.context() as patched:
        patched.setattr(doors, "MANY", 0)
        together = doors.approach_slots(plan, rows)
    assert one_by_one.keys() == together.keys()
    for row in rows:
        slots = one_by_one[row.number]
        assert sorted(together[row.number].tolist()) == sorted(slots.tolist())
        expected = [spec.index(c) for c in plan.approaches_of(row) if spec.contains(c)]
        assert slots.tolist() == expected
        assert slots.dtype == np.int64
