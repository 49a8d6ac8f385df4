"""Ways of least time from one end to many over the pieces of a lane graph, as plain Python that Numba can compile.

Source of the algorithm: R. Dial, "Algorithm 360: Shortest-path forest with topological ordering", CACM 12 (1969), here
with buckets that may be wider than an edge is long. A node that one piece only leaves is passed at once and never
waits in a bucket.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from woven_locus.core.kernels.room import twice

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
Shorts = npt.NDArray[np.int32]

# In place of the piece by which a node was reached: one was there from the beginning. Below that: -2 - piece, from within
# that piece.
AT_NODE, WITHIN = -1, -2
# In place of the seed of a way: there is none; one is there already.
NO_WAY, THERE = -1, -2

# Buckets of the ring, a power of two; entries for which there is room at first.
RING, _ROOM = 1024, 4096
# The number of the last bucket, for whatever is farther away.
_FAR = 2.0**52


class PieceNet(NamedTuple):
    """Pieces as they are driven, or all of them turned round. Sorted by the node that they leave, those of a node from
    first[node] to first[node + 1]: piece, to, the node to which it leads, and seconds."""

    first: Shorts
    piece: Shorts
    to: Shorts
    seconds: Floats


class Joins(NamedTuple):
    """Places at which ways begin, or end. node : to which one comes first from there, or from which one comes there at last.
    spent : seconds between the two.  piece, along : the piece within which it lies, -1 for a place at a node, and seconds
    along that in the direction of the search."""

    node: Shorts
    spent: Floats
    piece: Shorts
    along: Floats


class Reached(NamedTuple):
    """Scratch, by node: seconds to it, inf before a search and after it; came, (N, 2), the piece by which it was reached and
    the node before; whether a target asks for it, 0 before and after; rest, (N, 2), the first way that comes by on its way back
    to the seed, -1 for none, as before and after, and how many of its pieces come before."""

    cost: Floats
    came: Shorts
    wanted: npt.NDArray[np.uint8]
    rest: Ints


def next_bucket(ring, items, after, cost, inverse, least):  # type: ignore[no-untyped-def]
    """The first bucket from `least` on that something waits for, -1 for none."""
    found = -1
    for slot in range(len(ring)):
        entry = ring[slot]
        while entry >= 0:
            mine = int(min(cost[items[entry]] * inverse, _FAR))
            if mine >= least and (found < 0 or mine < found):
                found = mine
            entry = after[entry]
    return found


def reach(net, seeds, targets, width, reached):  # type: ignore[no-untyped-def]
    """Seconds from the nearest of some seeds to the nodes of all targets, in `reached`. What waits lies in a ring of buckets
    by its seconds; what comes into the bucket that is emptied is taken out again in its turn."""
    cost, came, wanted = reached.cost, reached.came, reached.wanted
    left = 0
    for node in targets.node:
        if not wanted[node]:
            wanted[node] = 1
            left += 1
    ring = np.full(RING, -1, np.int64)
    items = np.empty(_ROOM, np.int32)
    after = np.empty(_ROOM, np.int32)
    put = 0
    waiting = 0
    seed = 0
    node = np.int32(-1)
    limit = np.inf
    inverse = 1.0 / width
    bucket = 0
    held = -1  # entries of this bucket that are for a later round of the ring
    idle = 0
    # Seeds go through the same loop as nodes: a function called for each piece would be handed all arrays every time.
    while seed < len(seeds.node) or waiting > 0:
        is_seed = seed < len(seeds.node)
        spent = 0.0
        at, until = seed, seed + 1
        if is_seed:
            seed += 1
        else:
            entry = ring[bucket & (RING - 1)]
            if entry < 0:
                ring[bucket & (RING - 1)] = held
                held = -1
                bucket += 1
                idle += 1
                if idle > RING:
                    # A whole round was for nothing: on to the next bucket that holds anything.
                    bucket = next_bucket(ring, items, after, cost, inverse, bucket)
                    idle = 0
                if bucket < 0 or bucket * width >= limit:
                    break
                continue
            ring[bucket & (RING - 1)] = after[entry]
            node = items[entry]
            spent = cost[node]
            mine = int(min(spent * inverse, _FAR))
            if mine > bucket:
                after[entry] = held
                held = entry
                continue
            waiting -= 1
            idle = 0
            if mine < bucket:
                continue  # it was reached sooner
            at, until = net.first[node], net.first[node + 1]
        while at < until:
            before = np.int32(-1)
            if is_seed:
                to = seeds.node[at]
                there = seeds.spent[at]
                by = np.int32(AT_NODE if seeds.piece[at] < 0 else WITHIN - seeds.piece[at])
            else:
                to = net.to[at]
                there = spent + net.seconds[at]
                by = net.piece[at]
                before = node
            at += 1
            # As long as one piece only leaves the node that is come to, go on.
            while there < cost[to]:
                if wanted[to] and cost[to] == np.inf:
                    left -= 1
                cost[to] = there
                came[to, 0] = by
                came[to, 1] = before
                onward = net.first[to]
                if net.first[to + 1] - onward == 1:
                    there += net.seconds[onward]
                    by = net.piece[onward]
                    before = to
                    to = net.to[onward]
                    continue
                if net.first[to + 1] > onward:
                    if put == len(items):
                        items, after = twice(items), twice(after)
                    slot = int(min(there * inverse, _FAR)) & (RING - 1)
                    items[put] = to
                    after[put] = ring[slot]
                    ring[slot] = put
                    put += 1
                    waiting += 1
                break
        if left == 0 and limit == np.inf:
            # All have been come to: what is farther away than the farthest brings nobody nearer.
            limit = 0.0
            for node in targets.node:
                limit = max(limit, cost[node])


def nearest(begin, until, seeds, targets, reached):  # type: ignore[no-untyped-def]
    """Of some targets the one that is reached soonest: (its number, the seed if both lie within one piece, else NO_WAY);
    (-1, THERE) where a seed is at a target, (-1, NO_WAY) without a way."""
    best = np.inf
    which = -1
    direct = NO_WAY
    for target in range(begin, until):
        node = targets.node[target]
        if reached.cost[node] < np.inf:
            cost = reached.cost[node] + targets.spent[target]
            if targets.piece[target] < 0 and reached.came[node, 0] == AT_NODE:
                return -1, THERE
            if cost < best:
                best = cost
                which = target
                direct = NO_WAY
        piece = targets.piece[target]
        if piece < 0:
            continue
        for seed in range(len(seeds.node)):
            if seeds.piece[seed] == piece:
                way = targets.along[target] - seeds.along[seed]
                if way == 0.0:
                    return -1, THERE
                if 0.0 < way < best:
                    best = way
                    which = target
                    direct = seed
    return which, direct


def seed_of(node, seeds, reached):  # type: ignore[no-untyped-def]
    """The seed from which a node was reached first of all."""
    came = reached.came[node, 0]
    which = -1
    for seed in range(len(seeds.node)):
        piece = seeds.piece[seed]
        mine = seeds.node[seed] == node and (
            (came == AT_NODE and piece < 0) or (piece >= 0 and came == WITHIN - piece)
        )
        if mine and (which < 0 or seeds.spent[seed] < seeds.spent[which]):
            which = seed
    return which


def measure_back(g, node, count, seeds, reached, begins, seed):  # type: ignore[no-untyped-def]
    """How many pieces way g has, of which `count` come before a node from which it leads back to its seed; and take note of
    the seed. Where an earlier way came by the two are the same from there: ways to one end soon run together."""
    rest, came = reached.rest, reached.came
    while rest[node, 0] < 0 and came[node, 0] >= 0:
        rest[node, 0] = g
        rest[node, 1] = count
        count += 1
        node = came[node, 1]
    other = rest[node, 0]
    if other >= 0:
        seed[g] = seed[other]
        return count + begins[other + 1] - begins[other] - rest[node, 1]
    seed[g] = seed_of(node, seeds, reached)
    return count + 1 if came[node, 0] <= WITHIN else count


def lay_back(g, node, at, step, reached, begins, pieces):  # type: ignore[no-untyped-def]
    """Put the pieces from a node back to the seed, as part of way g, to pieces[at] and on by `step`. What an earlier way has
    laid is copied from there."""
    rest, came = reached.rest, reached.came
    while rest[node, 0] == g:
        pieces[at] = came[node, 0]
        at += step
        node = came[node, 1]
    other = rest[node, 0]
    if other >= 0:
        here = begins[other] + rest[node, 1] if step > 0 else begins[other + 1] - 1 - rest[node, 1]
        while begins[g] <= at < begins[g + 1]:
            pieces[at] = pieces[here]
            at += step
            here += step
    elif came[node, 0] <= WITHIN:
        pieces[at] = WITHIN - came[node, 0]


def ways_from(net, seeds, targets, first, turned, width, reached):  # type: ignore[no-untyped-def]
    """Ways of least time from the nearest of some seeds to the nearest of each group of targets.

    net : `PieceNet`.  seeds, targets : `Joins`.  first : (G + 1,) int64, the targets of group g are first[g] to
    first[g + 1].  turned : whether the net is turned round, and the ways are to begin at the targets.
    width : of a bucket, seconds, above 0.  reached : `Reached`.

    Returns (begins, pieces, seed, target): the pieces of way g, in the order in which they are driven, are
    pieces[begins[g]:begins[g + 1]], int32; by group the seed, NO_WAY or THERE, and the target.
    """
    reach(net, seeds, targets, width, reached)
    groups = len(first) - 1
    seed = np.full(groups, NO_WAY, np.int64)
    target = np.full(groups, -1, np.int64)
    last = np.full(groups, -1, np.int64)
    begins = np.zeros(groups + 1, np.int64)
    for g in range(groups):
        which, direct = nearest(first[g], first[g + 1], seeds, targets, reached)
        target[g] = which
        seed[g] = direct
        count = 1 if which >= 0 and targets.piece[which] >= 0 else 0
        if which >= 0 and direct < 0:
            node = targets.node[which]
            count = measure_back(g, node, count, seeds, reached, begins, seed)
            last[g] = node
        begins[g + 1] = begins[g] + count
    pieces = np.empty(begins[groups], np.int32)
    # From the target back, so to the beginning of a way that is driven towards it.
    step = 1 if turned else -1
    for g in range(groups):
        at = begins[g] if turned else begins[g + 1] - 1
        if target[g] >= 0 and targets.piece[target[g]] >= 0:
            pieces[at] = targets.piece[target[g]]
            at += step
        if last[g] >= 0:
            lay_back(g, last[g], at, step, reached, begins, pieces)
    reached.cost[:] = np.inf
    reached.rest[:, 0] = -1
    for node in targets.node:
        reached.wanted[node] = 0
    return begins, pieces, seed, target
