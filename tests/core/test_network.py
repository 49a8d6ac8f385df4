"""The junction graph and the groups, against their definition and against SciPy."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp
from scipy import ndimage

from tests.helpers.networks import assert_network_is_current, kept_graph
from woven_locus.core import kernels
from woven_locus.core.errors import NotReady
from woven_locus.core.geometry import Box, Slot
from woven_locus.core.kernels import groups
from woven_locus.core.kernels.graph import GraphArrays
from woven_locus.core.value import replace
from woven_locus.core.ways import network as networks
from woven_locus.core.ways.network import RoadNetwork
from woven_locus.core.ways.roads import RoadClass, RoadTable, Sign, road_byte

TWO = RoadTable(
    [
        RoadClass("cart", "Cart road", "c", 4.0, 1.0, 2, "#EFE3C8"),
        RoadClass("path", "Path", "p", 2.0, 1.75, 1, "#C0A070"),
    ]
)
bytes_ = st.sampled_from(
    [0, 0, 0, *(road_byte(0),) * 5, road_byte(1), *(road_byte(0, sign) for sign in Sign if sign)]
)


@given(st.data(), st.integers(1, 9), st.integers(1, 9))
def test_the_graph_follows_any_edit(data: st.DataObject, rows: int, cols: int) -> None:
    road = data.draw(hnp.arrays(np.uint8, (rows, cols), elements=bytes_))
    doors = data.draw(hnp.arrays(np.uint8, (rows, cols), elements=st.sampled_from([0, 0, 0, 1])))
    network = RoadNetwork(road, TWO, doors, (2.0, 3.0))
    assert_network_is_current(network, road)
    for _ in range(3):
        r, c = data.draw(st.integers(0, rows - 1)), data.draw(st.integers(0, cols - 1))
        box = Box(r, c, min(rows, r + 3), min(cols, c + 2))
        road[box.slices] = data.draw(hnp.arrays(np.uint8, box.shape, elements=bytes_))
        network.touch(box)
        r, c = data.draw(st.integers(0, rows - 1)), data.draw(st.integers(0, cols - 1))
        doors[r, c] ^= 1
        network.touch_doors(np.array([r * cols + c]))
        if data.draw(st.booleans()):
            assert_network_is_current(network, road)
    assert_network_is_current(network, road)


@pytest.mark.parametrize("most_parts", [groups.MOST_PARTS, 1])
def test_many_small_edits_give_what_a_labelling_does(
    most_parts: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(groups, "MOST_PARTS", most_parts)
    rng = np.random.default_rng(8)
    for _ in range(150):
        road = (rng.random(rng.integers(1, 14, 2)) < rng.random()).astype(np.uint8)
        network = RoadNetwork(road)
        _ = network.labels
        for _ in range(4):
            before = network.graph, network.graph.group_epoch
            was = network.labels.copy()
            for _ in range(rng.integers(1, 6)):
                row, col = (int(rng.integers(size)) for size in road.shape)
                road[row, col] ^= 1
                network.touch(Box(row, col, row + 1, col + 1))
            labels, (expected, count) = network.labels, ndimage.label(road)
            pairs = np.unique(np.stack([labels[road > 0], expected[road > 0]], axis=1), axis=0)
            assert len(pairs) == count == len(np.unique(pairs[:, 0]))
            assert all(
                network.size(mine) == (expected == one).sum() for mine, one in pairs.tolist()
            )
            both = (was > 0) & (labels > 0)
            if (network.graph, network.graph.group_epoch) == before:
                np.testing.assert_array_equal(was[both], labels[both])


def test_doors_that_come_and_go_leave_the_groups() -> None:
    rng = np.random.default_rng(31)
    for _ in range(120):
        road = (rng.random(rng.integers(1, 14, 2)) < rng.uniform(0.3, 0.9)).astype(np.uint8)
        doors = (rng.random(road.shape) < 0.1).astype(np.uint8)
        network = RoadNetwork(road, TWO, doors, (2.0, 3.0))
        before, epoch = network.labels.copy(), network.graph.group_epoch
        for _ in range(4):
            # Many at once, on rings too, and some where there is no road.
            some = rng.choice(road.size, int(rng.integers(1, road.size + 1)), replace=False)
            doors.ravel()[some] ^= 1
            network.touch_doors(some)
            network.bring_up_to_date()
            assert network.graph.group_epoch == epoch
            np.testing.assert_array_equal(network.labels, before)
            assert_network_is_current(network, road)


def test_a_cut_by_two_edits_side_by_side_is_seen() -> None:
    road = np.ones((1, 5), np.uint8)
    network = RoadNetwork(road)
    assert network.size(network.group_at(0)) == 5
    for col in (2, 3):
        road[0, col] = 0
        network.touch(Box(0, col, 1, col + 1))
    labels = network.labels[0].tolist()
    assert labels[0] == labels[1] != labels[4]
    assert labels[2:4] == [0, 0]
    assert (network.size(labels[0]), network.size(labels[4])) == (2, 1)


def test_a_ring_has_one_node_until_something_joins_it() -> None:
    road = np.ones((4, 4), np.uint8)
    road[1:3, 1:3] = 0
    network = RoadNetwork(road)
    nodes, runs, _groups = kept_graph(network)
    assert nodes == {(0, 0)}
    assert runs == {(Slot(0, 0), 1, Slot(0, 0), 2, 12): (12.0, 12.0)}
    road[1, 1] = 1  # joined from within: its corner becomes a crossing of three
    network.touch(Box(1, 1, 2, 2))
    assert kept_graph(network)[0] == {(0, 1), (1, 0)}
    assert [len(group) for group in kept_graph(network)[2]] == [13]
    road[3, 3] = 0
    network.touch(Box(3, 3, 4, 4))
    assert_network_is_current(network, road)


def test_a_closed_cell_parts_and_a_one_way_cell_does_not() -> None:
    road = np.full((1, 5), road_byte(0), np.uint8)
    road[0, 2] = road_byte(0, Sign.EAST)
    network = RoadNetwork(road, TWO)
    runs = kept_graph(network)[1]
    assert runs == {(Slot(0, 0), 1, Slot(0, 4), 3, 4): (4.0, np.inf)}
    road[0, 2] = road_byte(0, Sign.CLOSED)
    network.touch(Box(0, 2, 1, 3))
    assert network.group_at(1) != network.group_at(3)
    assert network.group_at(2) == 0


def test_a_large_network_on_a_cold_cache_still_tells_its_groups(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setattr(networks, "TWIN_LIMIT", 3)
    kernels.use_twins()
    road = np.array([[1, 1, 0, 1], [0, 1, 0, 1]], np.uint8)
    network = RoadNetwork(road)
    assert not network.has_graph
    with pytest.raises(NotReady, match="not compiled yet"):
        _ = network.graph
    assert network.size(network.group_at(0)) == 3
    assert network.groups_at(np.array([2, 3])).tolist()[0] == 0
    road[0, 2] = 1
    network.touch(Box(0, 2, 1, 3))
    assert network.size(network.group_at(0)) == 6


def test_the_compiled_graph_is_its_twin_array_for_array(compiled_kernels: None) -> None:
    rng = np.random.default_rng(12)
    for _ in range(60):
        shape = tuple(rng.integers(2, 16, 2).tolist())
        road = (rng.random(shape) < rng.uniform(0.3, 0.9)).astype(np.uint8)
        doors = (rng.random(shape) < 0.1).astype(np.uint8)
        steps = [
            (int(rng.integers(shape[0])), int(rng.integers(shape[1])), int(rng.integers(2)))
            for _ in range(12)
        ]
        made = []
        for compiled in (True, False):
            layer = road.copy()
            network = RoadNetwork(layer, TWO, doors, (2.0, 3.0))
            if not compiled:
                kernels.use_twins()
            _ = network.graph
            for row, col, code in steps:
                layer[row, col] = code
                network.touch(Box(row, col, row + 1, col + 1))
                network.bring_up_to_date()
            made.append(network.graph.arrays)
            kernels.install()
        for name, ours, theirs in zip(GraphArrays._fields, *made, strict=True):
            np.testing.assert_array_equal(ours, theirs, err_msg=name)


def test_another_name_for_a_class_leaves_the_graph() -> None:
    network = RoadNetwork(np.ones((1, 4), np.uint8), TWO)
    before = network.graph.revision
    network.reset(RoadTable([replace(TWO[0], name="Lane", dye="#010203"), TWO[1]]))
    assert network.graph.revision == before


def test_another_cost_of_a_class_is_another_cost_of_runs_and_no_more() -> None:
    road = np.array([[1, 1, 2, 1, 1], [0, 1, 0, 1, 0]], np.uint8)
    network = RoadNetwork(road, TWO)
    graph, before = network.graph, network.graph.revision
    nodes, runs = graph.nodes().tolist(), graph.runs().tolist()
    network.reset(RoadTable([replace(TWO[0], cost=3.0), TWO[1]]))
    assert network.least == 1.75
    assert_network_is_current(network, road)
    graph = network.graph
    assert (graph.nodes().tolist(), graph.runs().tolist()) == (nodes, runs)
    changes = graph.changes_since(before)
    assert changes is not None
    assert (changes.runs_made.tolist(), changes.nodes_touched.tolist()) == (runs, [])


def test_a_class_that_is_not_there_any_more_is_closed() -> None:
    road = np.array([[1, 1, 2, 1, 1]], np.uint8)
    network = RoadNetwork(road, TWO)
    assert network.graph.cell_count == 5
    network.reset(RoadTable([TWO[0]]))
    assert network.graph.cell_count == 4
    assert_network_is_current(network, road)


@given(st.data(), st.integers(1, 7), st.integers(1, 7))
def test_costs_may_change_in_the_middle_of_other_edits(
    data: st.DataObject, rows: int, cols: int
) -> None:
    road = data.draw(hnp.arrays(np.uint8, (rows, cols), elements=bytes_))
    network = RoadNetwork(road, TWO, cell=(2.0, 3.0))
    assert_network_is_current(network, road)
    box = Box(0, 0, data.draw(st.integers(1, rows)), data.draw(st.integers(1, cols)))
    road[box.slices] = data.draw(hnp.arrays(np.uint8, box.shape, elements=bytes_))
    cost = data.draw(st.sampled_from([0.5, 1.75, 9.0]))
    steps = [
        lambda: network.touch(box),
        lambda: network.reset(RoadTable([TWO[0], replace(TWO[1], cost=cost)])),
    ]
    for step in data.draw(st.permutations(steps)):
        step()
    assert_network_is_current(network, road)


def test_room_is_made_as_the_network_grows() -> None:
    road = np.zeros((40, 40), np.uint8)
    network = RoadNetwork(road)
    small = network.graph.node_room
    # A comb: every other row is street, every third cell between them a way across.
    for row in range(0, 40, 2):
        road[row] = 1
        road[min(39, row + 1), ::3] = 1
        network.touch(Box(row, 0, min(40, row + 2), 40))
        network.bring_up_to_date()
    assert network.graph.node_room > small
    assert_network_is_current(network, road)
    assert network.least == 1.0


@given(st.data(), st.integers(2, 9), st.integers(2, 9))
def test_what_changed_since_a_revision_is_all_that_changed(
    data: st.DataObject, rows: int, cols: int
) -> None:
    road = data.draw(hnp.arrays(np.uint8, (rows, cols), elements=bytes_))
    network = RoadNetwork(road, TWO)
    since = network.graph.revision
    before = _by_number(network)
    for _ in range(data.draw(st.integers(0, 4))):
        row, col = data.draw(st.integers(0, rows - 1)), data.draw(st.integers(0, cols - 1))
        road[row, col] = data.draw(bytes_)
        network.touch(Box(row, col, row + 1, col + 1))
        if data.draw(st.booleans()):
            network.bring_up_to_date()
    after = _by_number(network)
    changes = network.graph.changes_since(since)
    if changes is None:
        # Most of a small map was touched at once, and the graph made anew.
        assert network.graph.revision > since
        return
    for was, now, gone, made in (
        (before[0], after[0], changes.nodes_gone, changes.nodes_touched),
        (before[1], after[1], changes.runs_gone, changes.runs_made),
    ):
        told = {*gone.tolist(), *made.tolist()}
        for number in was.keys() | now.keys():
            if was.get(number) != now.get(number):
                assert number in told
            if number not in was:
                assert number in made
            if number not in now:
                assert number in gone


def _by_number(network: RoadNetwork) -> tuple[dict[int, object], dict[int, object]]:
    """Nodes and runs by number, with all that is known of them."""
    graph = network.graph
    nodes = {n: (graph.slot_of(n), graph.arms(n)) for n in graph.nodes().tolist()}
    runs = {
        r: (
            [graph.slot_of(n) for n in graph.ends(r)],
            graph.costs(r),
            network.cells_of_run(r).tolist(),
        )
        for r in graph.runs().tolist()
    }
    return nodes, runs


def test_changes_that_are_too_far_back_are_not_made_up() -> None:
    road = np.zeros((3, 60), np.uint8)
    road[1] = 1
    network = RoadNetwork(road)
    first = network.graph.revision
    assert network.graph.changes_since(first - 1) is None
    for col in [5, 9] * networks.KEPT_UPDATES:
        road[0, col] ^= 1
        network.touch(Box(0, col, 1, col + 1))
        network.bring_up_to_date()
    graph = network.graph
    assert graph.changes_since(first) is None
    assert graph.changes_since(graph.revision - 3) is not None
    seen = graph.revision
    network.reset()
    assert network.graph.changes_since(seen) is None
