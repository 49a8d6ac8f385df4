"""Where one gains most, and whether waves are held: against one question at a time."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.test_seals import maze
from tests.core.test_waves import BOLT, MOTH, POST, WALL, field, put
from woven_locus.core.geometry import Cell
from woven_locus.core.placing import feasible_map
from woven_locus.core.wave_plan import Group, Wave
from woven_locus.core.waves.around import Around
from woven_locus.core.waves.gain import BEST, gains, pace
from woven_locus.core.waves.ranges import in_range
from woven_locus.core.waves.trials import strengths, will_hold
from woven_locus.core.waves.ways import find_ways


@settings(max_examples=12, deadline=None)
@given(st.integers(0, 2**32 - 1), st.booleans())
def test_every_spot_gains_what_one_question_says(seed: int, tower: bool) -> None:
    rng = np.random.default_rng(seed)
    plan = field(7, 10)
    for col in rng.choice(8, 3, replace=False).tolist():
        put(plan, "post", col + 1, int(rng.choice([1, 2, 4, 5])))
    kind, turn = (POST, 0) if tower else (WALL, int(rng.integers(2)))
    kind = plan.kinds[kind.key]
    legal = feasible_map(plan, kind, turn)
    found = gains(plan, kind, turn, legal)
    ways = find_ways(plan)
    for row, col in np.argwhere(legal).tolist():
        spot = plan.spec.cell_of_slot((row, col))
        if tower:
            centre = plan.spec.centre(spot)
            expected = sum(in_range(way.points, centre, BOLT) / pace(plan, way) for way in ways)
        else:
            after = find_ways(plan, plan.footprint(kind, turn).at(spot))
            expected = sum(
                (new.length - way.length) / pace(plan, way)
                for way, new in zip(ways, after, strict=True)
            )
            # Off the way nothing is searched; there another way of the same length may be found.
            if abs(expected) < 1e-9:
                expected = 0.0
        assert found.seconds[row, col] == pytest.approx(expected, abs=1e-9)
    assert np.isnan(found.seconds[~legal]).all()
    best = [seconds for _cell, seconds in found.best]
    assert best == sorted(best, reverse=True)
    assert len(best) <= BEST
    if best:
        assert best[0] == pytest.approx(float(np.nanmax(found.seconds)))


def test_waves_are_tried_alone_and_in_order() -> None:
    waves = (
        Wave("One", 0.0, (Group("E1", "moth", 2, 3.0),)),
        Wave("Two", 20.0, (Group("E1", "moth", 60, 0.1, 0.0, 0.5),)),
    )
    plan = field(waves=waves, lives=20)
    put(plan, "post", 9, 1)
    shares: list[float] = []
    found = will_hold(plan, 3, shares.append)
    assert [item.wave for item in found] == [0, 1, None]
    assert (found[0].held, found[0].lives) == (1.0, (20, 20.0, 20))
    assert found[1].held == found[2].held == 0.0
    assert found[2].first_lost == 1
    assert all(item.runs == 3 for item in found)
    assert shares == sorted(shares)
    assert will_hold(plan, 3, stopped=lambda: True) == []
    strong = strengths(plan)
    assert [item.health for item in strong] == [2 * MOTH.health, 60 * MOTH.health]
    # 4.583 in range at a speed of 1, and 3 more until the last has come: 7.583 s at 2 shots of 4 a second.
    assert strong[0].damage == pytest.approx(
        (2 * np.sqrt(5.25) + 3.0) / BOLT.interval * BOLT.damage
    )


def test_a_least_cut_of_a_gap_is_the_gap() -> None:
    from woven_locus.core.wave_plan import Moves
    from woven_locus.core.waves.cut import least_cut

    plan = field(5, 8)
    for row in (0, 1, 4):
        put(plan, "post", 4, row)
    (entry,) = plan.waves.entries
    cut = least_cut(plan, entry, Moves.GROUND)
    # The entry itself has three open neighbours; the gap has two cells.
    assert len(cut.cells) == 2
    assert not cut.why
    assert least_cut(plan, entry, Moves.AIR).why == "nothing closes the air"
    assert least_cut(plan, entry, Moves.ROADS).why == "no way leads to a goal"
    assert Cell(0, 2) not in cut.cells


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 2**32 - 1))
def test_a_way_around_costs_what_a_search_from_scratch_says(seed: int) -> None:
    rng = np.random.default_rng(seed)
    plan = maze(rng, int(rng.integers(3, 12)), int(rng.integers(3, 12)), 0.25, 1)
    plan.terrain[:] = rng.integers(0, 2, plan.spec.shape)
    plan.refresh(plan.spec.box, False)
    (way,) = find_ways(plan)
    if not way.found:
        return
    around = Around(plan)
    for _ in range(5):
        cells = [plan.spec.cell_of_slot(rng.integers(plan.spec.shape).tolist()) for _ in range(3)]
        (expected,), found = find_ways(plan, cells), around.find(way, cells)
        assert found.found is expected.found
        if found.found:
            assert found.cost == pytest.approx(expected.cost, rel=1e-8)
            assert not {tuple(slot) for slot in found.slots.tolist()} & {
                tuple(plan.spec.slot(cell)) for cell in cells
            }
