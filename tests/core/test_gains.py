"""Where one gains most, and whether waves are held: against one question at a time."""

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.test_routing import dijkstra_cost
from tests.core.test_seals import maze
from tests.core.test_waves import BOLT, MOTH, POST, WALL, field, put
from tests.helpers.depth import examples
from woven_locus.core.books.forecast import what_if
from woven_locus.core.derived.cells import movement_costs
from woven_locus.core.editing import Edit, History, StructuresChange
from woven_locus.core.edits import money
from woven_locus.core.geometry import Cell, Point
from woven_locus.core.placing import feasible_map
from woven_locus.core.plan import Plan
from woven_locus.core.register import Rows, Structure
from woven_locus.core.value import replace
from woven_locus.core.wave_plan import Group, Moves, Wave
from woven_locus.core.waves.around import Around
from woven_locus.core.waves.gain import BEST, Measure, gains, pace
from woven_locus.core.waves.narrow import WIDEST, narrow_places
from woven_locus.core.waves.ranges import in_range
from woven_locus.core.waves.reach import reach_of_towers, shots_in
from woven_locus.core.waves.run import WaveRun
from woven_locus.core.waves.trials import rewards, strengths, will_hold
from woven_locus.core.waves.ways import EntryWay, find_ways, slots_of


def walked(plan: Plan, way: EntryWay, centre: Point) -> float:
    """Seconds in range at a speed of 1, step by step in small pieces."""
    total = 0.0
    for k in range(len(way.points) - 1):
        here, there = way.points[k], way.points[k + 1]
        slots = way.slots[k], way.slots[k + 1]
        slow = 1.0
        if plan.waves.terrain_slows:
            slow = sum(movement_costs(plan)[plan.movement[tuple(slot)]] for slot in slots) / 2
        total += in_range(np.stack([here, there]), centre, BOLT) * slow
    return total


def with_post(plan: Plan, spot: Cell) -> Plan:
    """A copy with one more post, number 99."""
    twin = plan.twin()
    row = Structure(99, "post", spot, 0, 0, "now", 0)
    History(twin).do(Edit("", (StructuresChange(Rows(), Rows((row,))),)))
    return twin


@settings(max_examples=examples(12), deadline=None)
@given(st.integers(0, 2**32 - 1), st.booleans())
def test_every_spot_gains_what_one_question_says(seed: int, tower: bool) -> None:
    rng = np.random.default_rng(seed)
    plan = field(7, 10, terrain_slows=bool(rng.integers(2)))
    plan.terrain[:] = rng.integers(0, 2, plan.spec.shape)
    plan.refresh(plan.spec.box, False)
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
            expected = sum(walked(plan, way, centre) / pace(plan, way) for way in ways)
            # What a moth that comes alone can lose there, as far as the posts that stand leave it something.
            (reach,) = [r for r in [*reach_of_towers(with_post(plan, spot))] if r.tower == 99] or [
                None
            ]
            dealt = sum(item.damage for item in reach_of_towers(plan))
            new = min(max(0.0, MOTH.health - dealt), reach.damage if reach is not None else 0.0)
            assert found.at(spot, Measure.DAMAGE) == pytest.approx(new, abs=1e-9)
        else:
            after = find_ways(plan, plan.footprint(kind, turn).at(spot))
            expected = sum(
                (new.effort - way.effort) / pace(plan, way)
                for way, new in zip(ways, after, strict=True)
            )
            # Off the way nothing is searched; there another way that costs the same may be found.
            cells = set(plan.footprint(kind, turn).at(spot))
            on_it = {plan.spec.cell_of_slot(slot) for way in ways for slot in way.slots.tolist()}
            if cells.isdisjoint(on_it):
                expected = 0.0
        assert found.seconds[row, col] == pytest.approx(expected, abs=1e-9)
    assert np.isnan(found.seconds[~legal]).all()
    best = [found.at(cell) for cell in found.best()]
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


@settings(max_examples=examples(60), deadline=None)
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


def test_what_towers_could_do_is_what_they_do_to_one_alone() -> None:
    ox = replace(MOTH, key="ox", health=1000.0, speed=0.7, armour=1.0)
    bird = replace(MOTH, key="bird", moves=Moves.AIR)
    waves = (Wave("One", 0.0, (Group("E1", "ox", 1),)),)
    plan = field(kinds=(ox, bird), waves=waves, terrain_slows=True)
    plan.terrain[:, 6:] = 1
    plan.refresh(plan.spec.box, False)
    put(plan, "post", 9, 1)
    put(plan, "post", 15, 3)
    found = reach_of_towers(plan)
    # The bolt hits what is on the ground only; no bird is sent either.
    assert [(item.tower, item.kind.key) for item in found] == [(1, "ox"), (2, "ox")]
    run = WaveRun(plan)
    run.finish()
    for item in found:
        assert run.tallies[item.tower].shots == item.shots == shots_in(item.seconds, BOLT.interval)
        assert run.tallies[item.tower].dealt == pytest.approx(item.damage)
    assert [shots_in(s, 0.5) for s in (0.0, 0.1, 0.5, 0.99)] == [0, 1, 2, 2]


def test_rewards_come_in_when_they_fall() -> None:
    plan = field(waves=(Wave("One", 0.0, (Group("E1", "moth", 2, 20.0),)),))
    put(plan, "post", 9, 1)
    History(plan).do(money.advance(plan, 100))
    run = WaveRun(plan)
    run.finish()
    found = rewards(plan)
    assert [paid for _at, paid in found] == [7, 7]
    for (at, _paid), fall in zip(found, run.falls, strict=True):
        assert 0 <= at - 100 - fall.seconds < 1
    when = what_if(plan.account, plan.kinds, 100, ["post"] * 99, found)
    assert [item.at for item in when[:99]].count(100) == 99
    History(plan).do(money.set_funds(plan, 10 + 9, 0))
    (bought, never) = what_if(plan.account, plan.kinds, 100, ["post", "post"], found)
    assert (bought.at, bought.left) == (found[0][0], 6)
    assert never.at == found[1][0]
    History(plan).do(money.set_funds(plan, None))
    assert rewards(plan) == []


@settings(max_examples=examples(60), deadline=None)
@given(st.integers(0, 2**32 - 1))
def test_narrow_places_are_closed_by_the_cells_that_are_named(seed: int) -> None:
    rng = np.random.default_rng(seed)
    plan = maze(rng, int(rng.integers(3, 14)), int(rng.integers(3, 14)), 0.25, 1)
    (way,) = find_ways(plan)
    found = narrow_places(plan)
    if not way.found:
        assert found == ()
        return
    is_open = np.isfinite(movement_costs(plan))[plan.movement]
    places = {cell for place in (*plan.waves.entries, *plan.waves.goals) for cell in place.cells}
    on_the_way = [plan.spec.cell_of_slot(slot) for slot in way.slots.tolist()]
    widths = [len(item.cells) for item in found]
    assert widths == sorted(widths)
    for item in found:
        assert len(item.cells) <= WIDEST
        assert item.at in item.cells
        assert item.at in on_the_way
        assert places.isdisjoint(item.cells)
        steps = {(b.col - a.col, b.row - a.row) for a, b in itertools.pairwise(item.cells)}
        assert len(steps) <= 1
        assert all(is_open[plan.spec.slot(cell)] for cell in item.cells)
        # It ends where something closed, or the edge, is.
        for step in steps or {(1, 0), (0, 1), (1, 1), (1, -1)}:
            ends = [item.cells[0].moved(-step[0], -step[1]), item.cells[-1].moved(*step)]
            shut = [not plan.spec.contains(end) or not is_open[plan.spec.slot(end)] for end in ends]
            if all(shut):
                break
        else:
            raise AssertionError(item)
        # The way does not get past it there.
        after = find_ways(plan, item.cells)[0]
        assert not after.found or after.cost >= way.cost - 1e-9


def test_a_gap_is_narrower_than_the_room_on_either_side() -> None:
    plan = field(5, 9)
    for row in (0, 1, 4):
        put(plan, "post", 4, row)
    (gap,) = narrow_places(plan)
    assert gap.cells == (Cell(4, 2), Cell(4, 3))
    assert gap.far == 4.0


@settings(max_examples=examples(80), deadline=None)
@given(st.integers(0, 2**32 - 1), st.sampled_from([4, 8]))
def test_ways_cost_what_dijkstra_says(seed: int, moves: int) -> None:
    rng = np.random.default_rng(seed)
    plan = maze(rng, int(rng.integers(3, 12)), int(rng.integers(3, 12)), 0.25, 2)
    plan.terrain[:] = rng.integers(0, 3, plan.spec.shape)
    plan.refresh(plan.spec.box, False)
    plan.waves = replace(plan.waves, moves=moves)
    (way,) = find_ways(plan)
    ends = slots_of(plan, plan.waves.entries), slots_of(plan, plan.waves.goals)
    spec, costs = plan.spec, movement_costs(plan)
    expected = dijkstra_cost(plan.movement, *ends, moves, (spec.cell_w, spec.cell_h), costs)
    assert way.cost == pytest.approx(expected)
    assert way.found is bool(np.isfinite(expected))
