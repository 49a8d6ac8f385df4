"""The junction graph of a road network, kept current from changed cells; plain Python that Numba can
compile.

Nodes are the road cells that are not merely passed through: junctions, ends, and cells at a structure's
door. What lies between two of them is a run. A ring without any node gets one of its own, its lowest
cell. Every node carries the number of its group, the connected piece of network that it belongs to.

After an edit only the runs that it touches are traced again; what that means for the groups is seen to
by `groups`.
"""

from __future__ import annotations

import numpy as np

from woven_locus.core.kernels.graph import CELLS, FREE_NODES, FREE_RUNS, NODES, RUNS, take_number
from woven_locus.core.kernels.groups import regroup, root_of
from woven_locus.core.kernels.moves import may_step

# Which joins lead through a cell: two sides and no more.
THROUGH = tuple(bits in (3, 5, 6, 9, 10, 12) for bits in range(16))
# The first side of each set of joins.
FIRST = (0, 0, 1, 0, 2, 0, 1, 0, 3, 0, 1, 0, 2, 0, 1, 0)


def beyond(slot, side, rows, cols):  # type: ignore[no-untyped-def]
    """The slot beyond a side 0 to 3 (north, east, south, west), or -1 outside the grid."""
    if side == 0:
        return slot - cols if slot >= cols else -1
    if side == 2:
        return slot + cols if slot < (rows - 1) * cols else -1
    col = slot % cols
    if side == 1:
        return slot + 1 if col < cols - 1 else -1
    return slot - 1 if col > 0 else -1


def joins(road, costs, slot, rows, cols):  # type: ignore[no-untyped-def]
    """The sides 0 to 3 beyond which there is open road, as bits 1, 2, 4, 8."""
    col = slot % cols
    found = 0
    if slot >= cols and costs[road[slot - cols]] < np.inf:
        found = 1
    if col < cols - 1 and costs[road[slot + 1]] < np.inf:
        found |= 2
    if slot < (rows - 1) * cols and costs[road[slot + cols]] < np.inf:
        found |= 4
    if col > 0 and costs[road[slot - 1]] < np.inf:
        found |= 8
    return found


def is_node(road, costs, doors, slot, rows, cols):  # type: ignore[no-untyped-def]
    """Whether an open road cell is more than passed through."""
    return doors[slot] > 0 or not THROUGH[joins(road, costs, slot, rows, cols)]


def trace(w, road, costs, exits, doors, rows, cols, cell_w, cell_h, start, side, run, until):  # type: ignore[no-untyped-def]
    """Walk from a cell out of one of its sides to the next node, or around a ring back to the cell.

    run : what the cells in between are marked with, 0 marks none.  until : a slot at which to stop too.
    Returns (last slot, its side that was entered by, steps, cost there, cost back, lowest slot passed).
    """
    slot, out = start, side
    steps = 0
    there = 0.0
    back = 0.0
    lowest = start
    while True:
        to = beyond(slot, out, rows, cols)
        enter = (out + 2) % 4
        a = road[slot]
        b = road[to]
        cost = (cell_h if out % 2 == 0 else cell_w) * (costs[a] + costs[b]) * 0.5
        there += cost if may_step(exits[a], exits[b], out + 1) else np.inf
        back += cost if may_step(exits[b], exits[a], enter + 1) else np.inf
        steps += 1
        lowest = min(lowest, to)
        ways = joins(road, costs, to, rows, cols)
        if to in (start, until) or doors[to] > 0 or not THROUGH[ways]:
            return to, enter, steps, there, back, lowest
        if run:
            w.owner[to] = run
        slot = to
        out = FIRST[ways & ~(1 << enter)]


def free_node(w, node):  # type: ignore[no-untyped-def]
    """Give up a node whose arms are gone."""
    w.at[node] = -1
    w.group[node] = 0
    w.free_nodes[w.head[FREE_NODES]] = node
    w.head[FREE_NODES] += 1


def new_node(w, slot):  # type: ignore[no-untyped-def]
    """A node on a cell, without arms or group."""
    node = take_number(w.free_nodes, w.head, NODES, FREE_NODES)
    w.at[node] = slot
    w.group[node] = 0
    for side in range(4):
        w.arm[node, side] = 0
    w.owner[slot] = -node
    return node


def trace_run(w, road, costs, exits, doors, rows, cols, cell_w, cell_h, node, side):  # type: ignore[no-untyped-def]
    """Make the run that leaves a node by a side; returns the node at its other end."""
    run = take_number(w.free_runs, w.head, RUNS, FREE_RUNS)
    last, enter, steps, there, back, _ = trace(
        w, road, costs, exits, doors, rows, cols, cell_w, cell_h, w.at[node], side, run, -1
    )
    other = -w.owner[last]
    w.ends[run, 0] = node
    w.ends[run, 1] = other
    w.side[run, 0] = side
    w.side[run, 1] = enter
    w.steps[run] = steps
    w.toll[run, 0] = there
    w.toll[run, 1] = back
    w.arm[node, side] = run
    w.arm[other, enter] = run
    return other


def cost_runs(w, road, costs, exits, doors, rows, cols, cell_w, cell_h, runs):  # type: ignore[no-untyped-def]
    """Work out again what these runs cost; the graph's shape is current. `w.toll` is changed. For the
    others see `update_graph`. O(cells of the runs)."""
    for run in runs:
        _, _, _, there, back, _ = trace(
            w,
            road,
            costs,
            exits,
            doors,
            rows,
            cols,
            cell_w,
            cell_h,
            w.at[w.ends[run, 0]],
            w.side[run, 0],
            0,
            -1,
        )
        w.toll[run, 0] = there
        w.toll[run, 1] = back


def keep_groups(w, dirty, was, seeds):  # type: ignore[no-untyped-def]
    """Give the nodes that are new the group of their cells, where nothing was joined or parted. was : old groups of the
    dirty cells. The `mark` of the seeds is cleared."""
    for k in range(len(dirty)):
        own = w.owner[dirty[k]]
        if own < 0:
            w.group[-own] = was[k]
        else:
            # What is passed through now may lie on a ring whose one node is new.
            w.group[w.ends[own, 0]] = was[k]
    for seed in seeds:
        w.mark[seed] = 0


def update_graph(w, road, costs, exits, doors, rows, cols, cell_w, cell_h, dirty, roads):  # type: ignore[no-untyped-def]
    """Bring the graph up to date.

    w : `GraphArrays`, with room for a node more for each dirty cell, and four runs.
    road : (H*W,) uint8.  costs : (256,) float64 of each byte, inf where nobody enters.
    exits : (256,) uint8, see `ways.roads`.  doors : (H*W,) uint8, doors at each cell.
    dirty : int64 flat slots, each once: the cells that changed, and their four neighbours.
    roads : whether road changed there; else doors did alone, on cells of the network, which joins and parts nothing.
    `w` is changed. Returns (runs given up, runs traced, nodes given up, nodes that are new or at which a
    run was traced), int32. O(cells of the runs touched + nodes of the smaller parts).
    """
    count = len(dirty)
    head = w.head
    # Old group of every dirty cell, 0 where there was no network.
    was = np.zeros(count, np.int32)
    dead = np.empty(4 * count + 4, np.int32)
    gone = 0
    for k in range(count):
        own = w.owner[dirty[k]]
        if own > 0:
            was[k] = w.group[w.ends[own, 0]]
            if w.steps[own] > 0:
                w.steps[own] = -w.steps[own]
                dead[gone] = own
                gone += 1
        elif own < 0:
            was[k] = w.group[-own]
            for side in range(4):
                run = w.arm[-own, side]
                if run and w.steps[run] > 0:
                    w.steps[run] = -w.steps[run]
                    dead[gone] = run
                    gone += 1

    # The nodes at which something may change: those of the dirty cells, and the far ends.
    seeds = np.empty(2 * gone + 9 * count + 8, np.int32)
    seeded = 0
    # Nodes that are given up.
    freed = np.empty(2 * gone + count + 1, np.int32)
    lost = 0
    for k in range(gone):
        run = dead[k]
        for end in range(2):
            node = w.ends[run, end]
            if w.at[node] >= 0:
                w.arm[node, w.side[run, end]] = 0
    for k in range(gone):
        for end in range(2):
            node = w.ends[dead[k], end]
            slot = w.at[node]
            if slot < 0 or w.mark[node]:
                continue
            if costs[road[slot]] < np.inf and is_node(road, costs, doors, slot, rows, cols):
                w.mark[node] = 1
                seeds[seeded] = node
                seeded += 1
            else:
                w.owner[slot] = 0
                free_node(w, node)
                freed[lost] = node
                lost += 1
    for k in range(gone):
        run = dead[k]
        w.steps[run] = 0
        w.free_runs[head[FREE_RUNS]] = run
        head[FREE_RUNS] += 1
    for k in range(count):
        slot = dirty[k]
        own = w.owner[slot]
        if costs[road[slot]] == np.inf:
            if own < 0:
                free_node(w, -own)
                freed[lost] = -own
                lost += 1
            w.owner[slot] = 0
            if was[k]:
                w.size[was[k]] -= 1
                head[CELLS] -= 1
            continue
        if is_node(road, costs, doors, slot, rows, cols):
            node = -own if own < 0 else new_node(w, slot)
            if not w.mark[node]:
                w.mark[node] = 1
                seeds[seeded] = node
                seeded += 1
        else:
            if own < 0:
                free_node(w, -own)
                freed[lost] = -own
                lost += 1
            w.owner[slot] = 0

    # New runs; those from node to node first, then what merely passes through the dirty cells.
    made = np.empty(4 * count + 4, np.int32)
    traced = 0
    for k in range(count):
        slot = dirty[k]
        if w.owner[slot] >= 0:
            continue
        node = -w.owner[slot]
        ways = joins(road, costs, slot, rows, cols)
        for side in range(4):
            if w.arm[node, side] or not ways >> side & 1:
                continue
            other = trace_run(w, road, costs, exits, doors, rows, cols, cell_w, cell_h, node, side)
            made[traced] = w.arm[node, side]
            traced += 1
            if not w.mark[other]:
                w.mark[other] = 1
                seeds[seeded] = other
                seeded += 1
    for k in range(count):
        slot = dirty[k]
        if w.owner[slot] != 0 or costs[road[slot]] == np.inf:
            continue
        side = FIRST[joins(road, costs, slot, rows, cols)]
        last, enter, _, _, _, lowest = trace(
            w, road, costs, exits, doors, rows, cols, cell_w, cell_h, slot, side, 0, -1
        )
        if last == slot:
            # A ring.
            node = new_node(w, lowest)
            enter = FIRST[joins(road, costs, lowest, rows, cols)]
        else:
            node = -w.owner[last]
        other = trace_run(w, road, costs, exits, doors, rows, cols, cell_w, cell_h, node, enter)
        made[traced] = w.arm[node, enter]
        traced += 1
        for each in (node, other):
            if not w.mark[each]:
                w.mark[each] = 1
                seeds[seeded] = each
                seeded += 1

    if not roads:
        keep_groups(w, dirty, was, seeds[:seeded])
        return dead[:gone], made[:traced], freed[:lost], seeds[:seeded]

    # Parts: seeds joined by the new runs. `mark` of a seed is 1 + its place among them.
    parent = np.arange(seeded)
    for k in range(seeded):
        w.mark[seeds[k]] = k + 1
    for k in range(traced):
        a = root_of(parent, w.mark[w.ends[made[k], 0]] - 1)
        b = root_of(parent, w.mark[w.ends[made[k], 1]] - 1)
        parent[max(a, b)] = min(a, b)
    # Claims: which old group is met in which part, by a seed or by a dirty cell that is still open.
    fresh = np.zeros(seeded, np.int64)
    claims = np.zeros((seeded + count, 2), np.int64)
    made_claims = 0
    for k in range(seeded):
        if w.group[seeds[k]]:
            claims[made_claims, 0] = w.group[seeds[k]]
            claims[made_claims, 1] = root_of(parent, k)
            made_claims += 1
    for k in range(count):
        own = w.owner[dirty[k]]
        if own:
            node = -own if own < 0 else w.ends[own, 0]
            root = root_of(parent, w.mark[node] - 1)
            if was[k]:
                claims[made_claims, 0] = was[k]
                claims[made_claims, 1] = root
                made_claims += 1
            else:
                fresh[root] += 1
                head[CELLS] += 1
    for k in range(seeded):
        w.mark[seeds[k]] = 0
    regroup(w, seeds[:seeded], parent, fresh, claims[:made_claims], was)
    return dead[:gone], made[:traced], freed[:lost], seeds[:seeded]
