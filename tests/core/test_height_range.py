import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from tests.helpers.random_steps import random_step
from tests.helpers.strategies import plans
from woven_locus.core.editing import History, Notice
from woven_locus.core.edits import heights
from woven_locus.core.geometry import Box
from woven_locus.core.ground.height_range import BAND, HeightRange
from woven_locus.core.plan import Plan


def looked_up(plan: Plan) -> tuple[float, float]:
    """All of them, one by one."""
    if plan.heights is None or np.isnan(plan.heights).all():
        return 0.0, 0.0
    return float(np.nanmin(plan.heights)), float(np.nanmax(plan.heights))


@given(plans(largest=9), st.integers(0, 2**32 - 1))
def test_the_range_that_is_kept_is_that_of_all_heights(plan: Plan, seed: int) -> None:
    history, kept, rng = History(plan), HeightRange(), np.random.default_rng(seed)

    def follow(notice: Notice) -> None:
        for box in notice.boxes if "heights" in notice.layers else ():
            kept.touched(box)

    history.listen(follow)
    history.do(heights.set_heights(plan, heights.flat(plan), "Flat"))
    for _ in range(10):
        random_step(plan, history, rng)
        assert kept.of(plan.heights) == looked_up(plan)


def test_only_the_rows_around_an_edit_are_looked_at() -> None:
    high, kept = np.zeros((5 * BAND, 8), np.float32), HeightRange()
    assert kept.of(high) == (0, 0)
    high[0, 1], high[3 * BAND, 0] = 7, -9
    kept.touched(Box(0, 0, 1, 4))
    assert kept.of(high) == (0, 7)
    assert kept.of(None) == (0, 0)
    assert kept.of(high) == (0, 7)
    # Of another array nothing is known.
    assert kept.of(high.copy()) == (-9, 7)
    assert kept.of(np.full((3, 3), np.nan, np.float32)) == (0, 0)
