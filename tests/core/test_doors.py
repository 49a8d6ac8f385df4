"""Where structures open to the road, many at once."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from tests.helpers.strategies import grids, kinds
from woven_locus.core.grid import GridSpec
from woven_locus.core.kinds import Catalogue, Kind
from woven_locus.core.plan import Plan
from woven_locus.core.register import Structure, alike
from woven_locus.core.ways import doors
from woven_locus.document.starter import starter_terrain


@given(st.data(), grids(12), st.lists(kinds("k"), min_size=1, max_size=1))
def test_those_of_many_are_those_of_each(
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
    found = doors.approach_slots(plan, alike(rows))
    assert list(found) == [number for group in alike(rows) for number in group.numbers.tolist()]
    for row in rows:
        expected = [spec.index(c) for c in plan.approaches_of(row) if spec.contains(c)]
        assert found[row.number].tolist() == expected
        assert found[row.number].dtype == np.int64
