"""Structures take their cells when a plan is made: all at once, or one by one where one cannot be."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.helpers.builders import KINDS, WHEN
from woven_locus.core import claims
from woven_locus.core.errors import BadPlan
from woven_locus.core.geometry import Cell
from woven_locus.core.grid import GridSpec
from woven_locus.core.ground import Obstacle
from woven_locus.core.kinds import Catalogue
from woven_locus.core.plan import Plan
from woven_locus.core.register import Structure
from woven_locus.document.starter import starter_terrain

KEYS = [kind.key for kind in KINDS]
ROWS = st.lists(
    st.builds(
        Structure,
        st.integers(1, 9),
        st.sampled_from([*KEYS, "nothing"]),
        st.builds(Cell, st.integers(-4, 9), st.integers(2, 12)),
        st.integers(0, 3),
        st.just(0),
        st.just(WHEN),
    ),
    max_size=5,
)


def made(rows: list[Structure]) -> Plan | str:
    """A small plan with a road, a barrier and an obstacle, or why there is none."""
    spec = GridSpec(12, 9, 2.0, 3.0, -5.0, 7.0, first_col=-3, first_row=4)
    road, barrier = np.zeros(spec.shape, np.uint8), np.zeros(spec.shape, np.uint8)
    road[4, 2:5], barrier[1, 7] = 1, 1
    try:
        return Plan(
            "Claims",
            spec,
            starter_terrain(),
            Catalogue(KINDS),
            road=road,
            barrier=barrier,
            obstacles=[Obstacle(1, "Old Tam", "boulder", (Cell(0, 6),))],
            structures=rows,
        )
    except BadPlan as err:
        return f"{err.where}: {err.what}"


@given(ROWS)
def test_all_at_once_is_as_one_by_one(rows: list[Structure]) -> None:
    whole = made(rows)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(claims, "_taken_at_once", lambda _plan, _rows: False)
        single = made(rows)
    if isinstance(single, str):
        assert whole == single
    else:
        assert isinstance(whole, Plan)
        np.testing.assert_array_equal(whole.occupant, single.occupant)
        assert list(whole.register) == list(single.register)
        assert whole.register.next_number == single.register.next_number


@pytest.mark.parametrize(
    ("second", "why"),
    [
        (Structure(1, "hut", Cell(3, 5), 0, 0, WHEN), "S1 is there twice"),
        (Structure(2, "hut", Cell(-1, 5), 0, 0, WHEN), "already taken by S1"),
        (Structure(2, "hut", Cell(0, 6), 0, 0, WHEN), "already taken by Old Tam"),
        (Structure(2, "hut", Cell(0, 8), 0, 0, WHEN), "already taken by road"),
        (Structure(2, "hut", Cell(4, 5), 0, 0, WHEN), "already taken by a barrier"),
        (Structure(2, "hut", Cell(-4, 5), 0, 0, WHEN), "is outside the grid"),
        (Structure(2, "nothing", Cell(3, 5), 0, 0, WHEN), "no kind 'nothing'"),
    ],
)
def test_what_cannot_be_is_named(second: Structure, why: str) -> None:
    told = made([Structure(1, "hut", Cell(-1, 5), 0, 0, WHEN), second])
    assert isinstance(told, str)
    assert told.startswith("structures[1]: ")
    assert why in told
