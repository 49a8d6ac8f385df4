"""The junction graph built the plain way, cell by cell with sets: the oracle of the kept one."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import numpy.typing as npt

from woven_locus.core.geometry import SIDES, Slot
from woven_locus.core.kernels.graph import CELLS, NODES, RUNS
from woven_locus.core.ways.network import RoadNetwork
from woven_locus.core.ways.roads import RoadTable


def may_step(a: int, b: int, side: int, exits: Sequence[int]) -> bool:
    """Whether traffic may go from a cell with byte `a` to one with byte `b`, which lies beyond its side
    1 to 4, from the definition: a one-way cell is left by its own side, and not entered by it."""
    opposite = {1: 3, 2: 4, 3: 1, 4: 2}[side]
    return exits[a] in (0, side) and exits[b] != opposite


# By (slot, side, slot, side, steps): the cost there and back.
Runs = dict[tuple[Any, ...], tuple[float, float]]
# (node slots, runs, groups as sets of slots)
Graph = tuple[set[Slot], Runs, set[frozenset[Slot]]]


def plain_graph(
    road: npt.NDArray[np.uint8],
    table: RoadTable,
    doors: npt.NDArray[np.uint8],
    cell: tuple[float, float],
) -> Graph:
    """Worked out from the definition."""
    is_open = {Slot(*at) for at in np.argwhere(np.isfinite(table.costs[road])).tolist()}

    def over(at: Slot, side: int) -> Slot:
        return Slot(at.row + SIDES[side][0], at.col + SIDES[side][1])

    def sides(at: Slot) -> list[int]:
        return [side for side in range(4) if over(at, side) in is_open]

    nodes = {at for at in is_open if len(sides(at)) != 2 or doors[at]}
    groups = set()
    left = set(is_open)
    while left:
        group, todo = set(), [min(left)]
        while todo:
            at = todo.pop()
            if at not in group:
                group.add(at)
                todo += [over(at, side) for side in sides(at)]
        left -= group
        groups.add(frozenset(group))
        if not group & nodes:
            nodes.add(min(group))
    runs: Runs = {}
    for start in nodes:
        for side in sides(start):
            at, out, steps, there, back = start, side, 0, 0.0, 0.0
            while True:
                to = over(at, out)
                a, b = int(road[at]), int(road[to])
                cost = cell[1 - out % 2] * (table.costs[a] + table.costs[b]) / 2
                exits = table.exits.tolist()
                there += cost if may_step(a, b, out + 1, exits) else np.inf
                back += cost if may_step(b, a, (out + 2) % 4 + 1, exits) else np.inf
                steps, at = steps + 1, to
                if at in nodes:
                    break
                (out,) = set(sides(at)) - {(out + 2) % 4}
            ends = (start, side, at, (out + 2) % 4)
            turned = (at, (out + 2) % 4, start, side)
            if ends <= turned:
                runs[*ends, steps] = there, back
    return nodes, runs, groups


def kept_graph(network: RoadNetwork) -> Graph:
    """The same, read from the arrays; asserts that they agree with one another."""
    w = network.graph.arrays
    cols = network.doors.shape[1]
    where = lambda flat: Slot(*divmod(int(flat), cols))  # noqa: E731
    live = [n for n in range(1, int(w.head[NODES]) + 1) if w.at[n] >= 0 and w.owner[w.at[n]] == -n]
    nodes = {where(w.at[n]) for n in live}
    assert len(nodes) == len(live) == int((w.owner < 0).sum())
    runs: Runs = {}
    used = {int(run) for n in live for run in w.arm[n] if run}
    assert used == {r for r in range(1, int(w.head[RUNS]) + 1) if w.steps[r] > 0}
    for run in used:
        (a, b), (out, enter) = w.ends[run].tolist(), w.side[run].tolist()
        assert w.arm[a, out] == w.arm[b, enter] == run
        there, back = w.toll[run].tolist()
        ends = (where(w.at[a]), out, where(w.at[b]), enter)
        if ends > (*ends[2:], *ends[:2]):
            ends, there, back = (*ends[2:], *ends[:2]), back, there
        key = (*ends, int(w.steps[run]))
        assert key not in runs
        runs[key] = there, back
        assert int((w.owner == run).sum()) == w.steps[run] - 1
    labels = network.labels
    groups = set()
    for label in np.unique(labels[labels > 0]).tolist():
        group = frozenset(Slot(*at) for at in np.argwhere(labels == label).tolist())
        assert network.size(label) == len(group)
        groups.add(group)
    assert int(w.head[CELLS]) == int((labels > 0).sum())
    assert not w.mark.any()
    assert not w.link.any()
    return nodes, runs, groups


def assert_network_is_current(network: RoadNetwork, road: npt.NDArray[np.uint8]) -> None:
    """What is kept is what the definition gives."""
    nodes, runs, groups = kept_graph(network)
    expected = plain_graph(road, network.table, network.doors, network.cell)
    assert (nodes, groups) == (expected[0], expected[2])
    assert runs.keys() == expected[1].keys()
    for key, costs in runs.items():
        # Summed from either end: the same but for rounding.
        np.testing.assert_allclose(costs, expected[1][key], rtol=1e-9)
