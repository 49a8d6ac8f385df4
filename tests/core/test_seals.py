"""What seals an entry, the fewest cells that do, and how much of a way is in range: held against plain searches."""

import itertools
import math

import networkx as nx
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.helpers.depth import examples
from woven_locus import kernel_cache
from woven_locus.core import kernels
from woven_locus.core.geometry import Cell, Point
from woven_locus.core.grid import GridSpec
from woven_locus.core.kinds.tower import Tower
from woven_locus.core.lines import step_lengths
from woven_locus.core.plan import Plan
from woven_locus.core.wave_plan import Entry, Goal, Moves, WavePlan
from woven_locus.core.waves.cut import least_cut
from woven_locus.core.waves.ranges import in_range, stretches
from woven_locus.core.waves.seals import Seals
from woven_locus.core.waves.ways import find_ways
from woven_locus.document.starter import starter_terrain


def maze(rng: np.random.Generator, rows: int, cols: int, share: float, ends: int) -> Plan:
    """Barriers by chance, an entry and a goal of some cells each, next to each other or not."""
    spec = GridSpec(cols, rows, 2.0, 3.0, -5.0, 7.0, first_col=-3, first_row=4)
    barrier = (rng.random(spec.shape) < share).astype(np.uint8)
    picked = rng.choice(rows * cols, 2 * ends, replace=False)
    cells = [spec.cell_of_slot(divmod(int(at), cols)) for at in picked]
    for cell in cells:
        barrier[spec.slot(cell)] = 0
    count = int(rng.integers(1, ends + 1))
    waves = WavePlan(
        (Entry("E1", "Hollow", tuple(cells[:count])),),
        (
            Goal("G1", "Store", tuple(cells[count : ends + 1])),
            *(Goal(f"G{k}", f"Barn {k}", (cell,)) for k, cell in enumerate(cells[ends + 1 :], 2)),
        ),
    )
    return Plan("Maze", spec, starter_terrain(), barrier=barrier, waves=waves)


def graph(plan: Plan, closed: set[Cell] = frozenset()) -> nx.Graph:  # type: ignore[assignment]
    """The cells that may be entered, joined over sides, and both places."""
    found = nx.Graph([("in", "in"), ("out", "out")])
    cells = {
        cell
        for slot in np.argwhere(plan.barrier == 0).tolist()
        if (cell := plan.spec.cell_of_slot(slot)) not in closed
    }
    found.add_nodes_from(cells)
    for cell in cells:
        found.add_edges_from(
            (cell, other) for other in (cell.moved(1, 0), cell.moved(0, 1)) if other in cells
        )
    for node, places in (("in", plan.waves.entries), ("out", plan.waves.goals)):
        found.add_edges_from(
            (node, cell) for place in places for cell in place.cells if cell in cells
        )
    return found


def shapes(rng: np.random.Generator) -> list[tuple[int, int]]:
    """(row, col) offsets of a footprint, perhaps in several pieces."""
    rows, cols = int(rng.integers(1, 4)), int(rng.integers(1, 4))
    some = np.argwhere(rng.random((rows, cols)) < 0.75).tolist()
    return [(r, c) for r, c in some] or [(0, 0)]


@settings(max_examples=examples(150), deadline=None)
@given(st.integers(0, 2**32 - 1))
def test_seals_are_those_of_a_search_at_every_spot(seed: int) -> None:
    rng = np.random.default_rng(seed)
    rows, cols = int(rng.integers(2, 12)), int(rng.integers(2, 12))
    ends = int(rng.integers(1, min(4, rows * cols // 2 + 1)))
    plan = maze(rng, rows, cols, float(rng.choice([0.0, 0.2, 0.35, 0.5])), ends)
    seals, offsets = Seals(plan), shapes(rng)
    before = nx.has_path(graph(plan), "in", "out")
    assert bool(seals.entries) is before
    at_row, at_col = (axis.ravel() for axis in np.indices(plan.spec.shape))
    spots = seals.spots(at_row, at_col, offsets)
    for k, (row, col) in enumerate(zip(at_row.tolist(), at_col.tolist(), strict=True)):
        cells = [plan.spec.cell_of_slot((row + r, col + c)) for r, c in offsets]
        expected = before and not nx.has_path(graph(plan, set(cells)), "in", "out")
        assert bool(seals.sealed(cells)) is expected, (row, col)
        assert bool(spots[k]) is expected


def test_a_large_map_is_answered_as_a_small_one() -> None:
    kernel_cache.install()
    try:
        rng = np.random.default_rng(3)
        plan = maze(rng, 40, 60, 0.36, 2)
        plan.barrier[:, 30] = 1
        plan.barrier[[7, 21], 30] = 0
        plan.refresh(plan.spec.box, False)
        seals, offsets = Seals(plan), [(0, 0), (1, 0), (2, 0)]
        at_row, at_col = (axis.ravel() for axis in np.indices(plan.spec.shape))
        compiled = seals.spots(at_row, at_col, offsets)
    finally:
        kernels.use_twins()
    np.testing.assert_array_equal(compiled, Seals(plan).spots(at_row, at_col, offsets))
    cells = [
        [plan.spec.cell_of_slot((r + k, c)) for k in range(3)]
        for r, c in zip(at_row, at_col, strict=True)
    ]
    inside = at_row < 38
    for k in np.flatnonzero(inside)[::7].tolist():
        expected = bool(seals.entries) and not nx.has_path(graph(plan, set(cells[k])), "in", "out")
        assert bool(compiled[k]) is expected


@settings(max_examples=examples(80), deadline=None)
@given(st.integers(0, 2**32 - 1))
def test_the_least_cut_is_a_minimum_node_cut(seed: int) -> None:
    rng = np.random.default_rng(seed)
    plan = maze(
        rng, int(rng.integers(3, 11)), int(rng.integers(3, 11)), float(rng.choice([0.1, 0.3])), 2
    )
    (entry,), net = plan.waves.entries, graph(plan)
    cut = least_cut(plan, entry, Moves.GROUND)
    ends = plan.waves.cells()
    # The ends themselves cannot be closed.
    flow = nx.DiGraph()
    for cell in net:
        flow.add_edge(
            (cell, 0),
            (cell, 1),
            **({} if cell in ends or isinstance(cell, str) else {"capacity": 1}),
        )
    for a, b in net.edges:
        flow.add_edges_from([((a, 1), (b, 0)), ((b, 1), (a, 0))])
    if not nx.has_path(net, "in", "out"):
        assert cut.cells == ()
        assert cut.why == "no way leads to a goal"
        return
    try:
        expected = nx.maximum_flow_value(flow, ("in", 1), ("out", 0))
    except nx.NetworkXUnbounded:
        assert cut.why == "the entry lies beside its goal"
        return
    assert len(cut.cells) == expected
    assert not ends & set(cut.cells)
    assert not nx.has_path(graph(plan, set(cut.cells)), "in", "out")


@settings(max_examples=examples(100), deadline=None)
@given(st.integers(0, 2**32 - 1))
def test_what_is_in_range_is_what_dense_samples_say(seed: int) -> None:
    rng = np.random.default_rng(seed)
    steps = rng.choice([-1.0, 0.0, 1.0], size=(int(rng.integers(1, 40)), 2)) * rng.choice(
        [1.0, 2.5]
    )
    points = np.cumsum(np.concatenate((rng.normal(size=(1, 2)), steps)), axis=0)
    centre = Point(*rng.normal(scale=3, size=2).tolist())
    most = float(rng.uniform(0.5, 6))
    tower = Tower(float(rng.uniform(0, most * 0.9)), most, 1.0, 1.0)
    dense = np.concatenate([np.linspace(a, b, 2001) for a, b in itertools.pairwise(points)])
    middles, lengths = (dense[1:] + dense[:-1]) / 2, step_lengths(dense)
    far = np.hypot(*(middles - np.array(centre)).T)
    expected = float(lengths[(far >= tower.least) & (far <= tower.most)].sum())
    assert in_range(points, centre, tower) == pytest.approx(expected, abs=0.1)
    parts = stretches(points, centre, tower.least, tower.most)
    assert all(part.begin < part.end for part in parts)
    assert [part.begin for part in parts] == sorted(part.begin for part in parts)


def test_in_range_by_hand() -> None:
    # A straight way 3 below a tower of range 5 is in range for 8; a least range of 4 leaves out 2 sqrt 7.
    points = np.array([[-10.0, 3.0], [0.0, 3.0], [10.0, 3.0]])
    assert in_range(points, Point(0, 0), Tower(0, 5, 1, 1)) == pytest.approx(8.0)
    expected = 8.0 - 2 * math.sqrt(7.0)
    assert in_range(points, Point(0, 0), Tower(4, 5, 1, 1)) == pytest.approx(expected)
    assert in_range(points, Point(0, 9), Tower(0, 5, 1, 1)) == 0.0
    assert in_range(points[:1], Point(0, 0), Tower(0, 5, 1, 1)) == 0.0


def test_a_way_is_the_cheapest_and_leads_to_the_goal_that_it_says() -> None:
    plan = maze(np.random.default_rng(8), 9, 9, 0.0, 1)
    (way,) = find_ways(plan)
    assert way.found
    assert way.goal == "G1"
    first, last = (plan.spec.cell_of_slot(way.slots[at].tolist()) for at in (0, -1))
    assert first in plan.waves.entries[0].cells
    assert last in plan.waves.goals[0].cells
    assert way.length == pytest.approx(float(step_lengths(plan.spec.centres(way.slots)).sum()))
    (closed,) = find_ways(plan, plan.waves.goals[0].cells)
    assert not closed.found
    assert math.isinf(closed.cost)
