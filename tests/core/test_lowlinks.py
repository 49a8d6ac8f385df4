"""Bridges and articulation points, against NetworkX, on the junction graphs of random roads."""

import networkx
import numpy as np
import pytest

from woven_locus.core import kernels
from woven_locus.core.ways.network import RoadNetwork


def check(rng: np.random.Generator) -> int:
    road = (rng.random(rng.integers(2, 12, 2)) < rng.uniform(0.4, 0.9)).astype(np.uint8)
    graph = RoadNetwork(road).graph
    count = graph.node_room
    enter, leave, low, up, order = (np.zeros(count, np.int32) for _ in range(5))
    met = kernels.low_links(graph.arrays, graph.largest_node, enter, leave, low, up, order)
    nodes = graph.nodes().tolist()
    assert sorted(order[:met].tolist()) == nodes
    # Every node's time, and those below it in one stretch.
    assert sorted(enter[nodes].tolist()) == list(range(1, len(nodes) + 1))
    theirs = networkx.MultiGraph()
    theirs.add_nodes_from(nodes)
    theirs.add_edges_from((*graph.ends(run), run) for run in graph.runs().tolist())
    bridges = {
        run
        for run in graph.runs().tolist()
        if graph.ends(run)[0] != graph.ends(run)[1]
        and not networkx.has_path(
            networkx.restricted_view(theirs, [], [(*graph.ends(run), run)]), *graph.ends(run)
        )
    }
    ours = {int(up[n]) for n in nodes if up[n] and low[n] == enter[n]}
    assert ours == bridges
    for node in nodes:
        below = [n for n in nodes if enter[node] <= enter[n] <= leave[node]]
        assert len(below) == leave[node] - enter[node] + 1
        if up[node]:
            assert enter[graph.far_end(int(up[node]), node)] < enter[node]
    assert not graph.arrays.mark.any()
    assert not graph.arrays.link.any()
    return len(bridges)


def test_low_links_find_the_bridges() -> None:
    rng = np.random.default_rng(41)
    assert sum(check(rng) for _ in range(150)) > 100


def test_compiled_low_links_find_the_bridges(compiled_kernels: None) -> None:
    rng = np.random.default_rng(42)
    assert sum(check(rng) for _ in range(400)) > 300


@pytest.mark.parametrize("rows", [["="], ["===", "=.=", "==="], ["=.=.="]])
def test_one_cell_a_ring_and_pieces(rows: list[str]) -> None:
    road = np.array([[ch == "=" for ch in row] for row in rows], np.uint8)
    graph = RoadNetwork(road).graph
    arrays = [np.zeros(graph.node_room, np.int32) for _ in range(5)]
    met = kernels.low_links(graph.arrays, graph.largest_node, *arrays)
    assert met == len(graph.nodes())
