"""A* over the junction graph of a road network, as plain Python that Numba can compile.

Sources of the algorithms: P. Hart, N. Nilsson, B. Raphael (1968), as in `astar`; E. Dijkstra, "A Note on
Two Problems in Connexion with Graphs", Numerische Mathematik 1 (1959); R. Dial, "Algorithm 360", CACM 12 (1969).
"""

from __future__ import annotations

import numpy as np

from woven_locus.core.kernels.junctions import FIRST, beyond, joins
from woven_locus.core.kernels.room import twice

# Buckets of the ring of a search to a goal, a power of two; the number of the last bucket, for whatever is farther away.
RING, FAR = 2048, 2.0**52
# Entries for which a heap has room at first.
HEAP_ROOM = 1024


def push(keys, items, count, key, item):  # type: ignore[no-untyped-def]
    """Onto a binary heap of `count` entries with room for one more."""
    at = count
    while at > 0:
        up = (at - 1) >> 1
        if keys[up] <= key:
            break
        keys[at] = keys[up]
        items[at] = items[up]
        at = up
    keys[at] = key
    items[at] = item


def pop(keys, items, count):  # type: ignore[no-untyped-def]
    """Take the least off a heap of `count` entries; what it was is returned."""
    item = items[0]
    last = count - 1
    key = keys[last]
    moved = items[last]
    at = 0
    while True:
        down = 2 * at + 1
        if down >= last:
            break
        if down + 1 < last and keys[down + 1] < keys[down]:
            down += 1
        if keys[down] >= key:
            break
        keys[at] = keys[down]
        items[at] = items[down]
        at = down
    keys[at] = key
    items[at] = moved
    return item


def roomier(keys, items):  # type: ignore[no-untyped-def]
    """The arrays of a full heap, twice as long."""
    return twice(keys), twice(items)


def bound(at, node, cols, box, h_w, h_h):  # type: ignore[no-untyped-def]
    """A cost that nothing from a node to the goals can be below."""
    row = at[node] // cols
    col = at[node] - row * cols
    return max(box[1] - col, col - box[3], 0) * h_w + max(box[0] - row, row - box[2], 0) * h_h


def search_graph(w, cols, h_w, h_h, width, starts, spent, goals, extra, box, g, came, seen, stamp):  # type: ignore[no-untyped-def]  # fmt: skip
    """Cheapest way over the graph from any start to any goal: A*, with a ring of buckets (Dial 1969) in place of a heap.
    Nodes of a bucket are taken last in, first out, and once more when they are reached more cheaply, so that any width of a
    bucket gives the same cost.

    w : `GraphArrays`.  h_w, h_h : least cost of a step across and down.  width : of a bucket of costs, above 0.
    starts, goals : int64 nodes, each once.  spent, extra : float64, what it costs to come to each start,
    and from each goal to where one is going.  box : int64 (row, col, row, col) around the goals' cells.
    g, came, seen : (N,) scratch, float64, int64, int64.  stamp : even, larger than any in `seen`.

    Returns (cost, goal, explored): the goal is its place in `goals`, -1 without a way; then `came` holds
    for each node on the way the run by which it is reached, with its direction: 2 * run + 1 when that is
    from the run's second end, 0 at a start.
    """
    items = np.empty(HEAP_ROOM, np.int64)
    below = np.empty(HEAP_ROOM, np.int64)
    when = np.empty(HEAP_ROOM, np.int64)
    tops = np.zeros(RING, np.int64)
    used = 1
    waiting = 0
    inverse = 1.0 / width
    best = np.inf
    best_goal = -1
    bucket = np.int64(FAR)
    for k in range(len(starts)):
        node = starts[k]
        g[node] = spent[k]
        seen[node] = stamp
        came[node] = 0
        if used == len(items):
            items, below = roomier(items, below)
            when = twice(when)
        f = spent[k] + bound(w.at, node, cols, box, h_w, h_h)
        to = np.int64(min(f * inverse, FAR))
        bucket = min(bucket, to)
        items[used] = node
        when[used] = to
        below[used] = tops[to & (RING - 1)]
        tops[to & (RING - 1)] = used
        used += 1
        waiting += 1
        for j in range(len(goals)):
            if goals[j] == node and spent[k] + extra[j] < best:
                best = spent[k] + extra[j]
                best_goal = j
    explored = 0
    held = 0  # entries of this bucket that are for a later round of the ring
    idle = 0
    while waiting > 0 and bucket * width < best:
        entry = tops[bucket & (RING - 1)]
        if not entry:
            tops[bucket & (RING - 1)] = held
            held = 0
            bucket += 1
            idle += 1
            if idle > RING:
                # A whole round was for nothing: on to the next bucket that holds anything.
                bucket = first_bucket(tops, below, when)
                idle = 0
            continue
        tops[bucket & (RING - 1)] = below[entry]
        if when[entry] > bucket:
            below[entry] = held
            held = entry
            continue
        waiting -= 1
        idle = 0
        node = items[entry]
        if seen[node] != stamp:
            continue  # closed
        seen[node] = stamp + 1
        here = g[node]
        explored += 1
        for side in range(4):
            run = w.arm[node, side]
            if not run:
                continue
            way = 0 if w.ends[run, 0] == node and w.side[run, 0] == side else 1
            other = w.ends[run, 1 - way]
            there = here + w.toll[run, way]
            if there >= best or (seen[other] >= stamp and g[other] <= there):
                continue
            f = there + bound(w.at, other, cols, box, h_w, h_h)
            if f >= best:
                continue
            g[other] = there
            came[other] = 2 * run + way
            seen[other] = stamp
            for j in range(len(goals)):
                if goals[j] == other and there + extra[j] < best:
                    best = there + extra[j]
                    best_goal = j
            if used == len(items):
                items, below = roomier(items, below)
                when = twice(when)
            # Not before the bucket that is being emptied, whatever rounding says.
            to = max(bucket, np.int64(min(f * inverse, FAR)))
            items[used] = other
            when[used] = to
            below[used] = tops[to & (RING - 1)]
            tops[to & (RING - 1)] = used
            used += 1
            waiting += 1
    return best, best_goal, explored


def first_bucket(tops, below, when):  # type: ignore[no-untyped-def]
    """The first bucket that any entry waits for; there is one."""
    found = np.int64(FAR)
    for slot in range(RING):
        entry = tops[slot]
        while entry:
            found = min(found, when[entry])
            entry = below[entry]
    return found


def dijkstra(w, starts, spent, g, came):  # type: ignore[no-untyped-def]
    """Cheapest costs from the starts to every node, Dijkstra's way.

    g : (N,) float64, filled, inf where nobody comes.  came : (N,) int64, filled as by `travel`.
    Returns the nodes reached in order of cost, int32.
    """
    g[:] = np.inf
    came[:] = 0
    keys = np.empty(HEAP_ROOM, np.float64)
    items = np.empty(HEAP_ROOM, np.int64)
    order = np.empty(len(g), np.int32)
    reached = 0
    waiting = 0
    for k in range(len(starts)):
        if spent[k] < g[starts[k]]:
            g[starts[k]] = spent[k]
            if waiting == len(keys):
                keys, items = roomier(keys, items)
            push(keys, items, waiting, spent[k], starts[k])
            waiting += 1
    while waiting > 0:
        cost = keys[0]
        node = pop(keys, items, waiting)
        waiting -= 1
        if cost > g[node]:
            continue
        order[reached] = node
        reached += 1
        for side in range(4):
            run = w.arm[node, side]
            if not run:
                continue
            way = 0 if w.ends[run, 0] == node and w.side[run, 0] == side else 1
            other = w.ends[run, 1 - way]
            there = cost + w.toll[run, way]
            if there >= g[other]:
                continue
            g[other] = there
            came[other] = 2 * run + way
            if waiting == len(keys):
                keys, items = roomier(keys, items)
            push(keys, items, waiting, there, other)
            waiting += 1
    return order[:reached]


def runs_to(w, came, node):  # type: ignore[no-untyped-def]
    """The runs by which a search came to a node, from its start on: (slots, sides, steps), int64, each run
    from the node that it leaves, out of a side, for so many steps; and the start, a node."""
    count = 0
    here = node
    while came[here]:
        here = w.ends[came[here] >> 1, came[here] & 1]
        count += 1
    slots = np.empty(count, np.int64)
    sides = np.empty(count, np.int64)
    steps = np.empty(count, np.int64)
    here = node
    for k in range(count - 1, -1, -1):
        run = came[here] >> 1
        way = came[here] & 1
        here = w.ends[run, way]
        slots[k] = w.at[here]
        sides[k] = w.side[run, way]
        steps[k] = w.steps[run]
    return slots, sides, steps, here


def leg_cells(owner, road, costs, rows, cols, slots, sides, steps):  # type: ignore[no-untyped-def]
    """The cells of legs along the road: each from a slot out of a side for so many steps, int64 flat,
    the first cell of each leg left out. owner : as in `GraphArrays`."""
    out = np.empty(steps.sum(), np.int64)
    made = 0
    for k in range(len(slots)):
        slot = slots[k]
        side = sides[k]
        left = steps[k]
        while left > 0:
            slot = beyond(slot, side, rows, cols)
            out[made] = slot
            made += 1
            left -= 1
            if left == 0:
                break
            # Straight on as long as the same run lies there, which is a look at one cell instead of four.
            ahead = beyond(slot, side, rows, cols)
            if ahead < 0 or owner[slot] <= 0 or owner[ahead] != owner[slot]:
                side = FIRST[joins(road, costs, slot, rows, cols) & ~(1 << (side + 2) % 4)]
    return out


def add_load(w, order, came, bound_for, on_node, on_run):  # type: ignore[no-untyped-def]
    """Send what is bound for each node back along the tree of a `dijkstra`, and count it.

    order, came : of that search.  bound_for : (N,) float64, what goes to each node; used up.
    on_node : (N,), on_run : (M,) float64, what passes is added. O(nodes reached).
    """
    for k in range(len(order) - 1, -1, -1):
        node = order[k]
        many = bound_for[node]
        if many == 0.0:
            continue
        bound_for[node] = 0.0
        on_node[node] += many
        if came[node]:
            run = came[node] >> 1
            on_run[run] += many
            bound_for[w.ends[run, came[node] & 1]] += many
