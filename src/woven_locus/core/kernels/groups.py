"""The groups of a junction graph, kept when runs come and go; plain Python that Numba can compile.

Where a group may have been split, its parts are searched side by side until they meet or all but one are
exhausted, so that the cost is that of the smaller parts: S. Even and Y. Shiloach, "An On-Line
Edge-Deletion Problem", J. ACM 28 (1981). Where groups are joined, the smaller one takes the larger's number.
"""

from __future__ import annotations

import numpy as np

from woven_locus.core.kernels.graph import EPOCH, FREE_GROUPS, GROUPS, take_number

# More loose parts than this are simply numbered anew.
MOST_PARTS = 64


def root_of(parent, k):  # type: ignore[no-untyped-def]
    """The representative of a part; paths are halved on the way."""
    while parent[k] != k:
        parent[k] = parent[parent[k]]
        k = parent[k]
    return k


def distinct(claims, was):  # type: ignore[no-untyped-def]
    """The groups that are named in (K, 2) claims and in `was`, each once, in order; 0 is none. By heapsort: J. W. J. Williams,
    "Algorithm 232", Comm. ACM 7 (1964). The library's sort would take seconds to compile."""
    found = np.empty(len(claims) + len(was), np.int64)
    count = 0
    for k in range(len(claims)):
        if claims[k, 0] > 0:
            found[count] = claims[k, 0]
            count += 1
    last = 0
    for k in range(len(was)):
        # Cells beside each other mostly belong to one.
        if was[k] > 0 and was[k] != last:
            last = was[k]
            found[count] = last
            count += 1
    for root in range(count // 2 - 1, -1, -1):
        sift(found, root, count)
    for end in range(count - 1, 0, -1):
        found[0], found[end] = found[end], found[0]
        sift(found, 0, end)
    left = 0
    for k in range(count):
        if not k or found[k] != found[left - 1]:
            found[left] = found[k]
            left += 1
    return found[:left]


def sift(heap, at, end):  # type: ignore[no-untyped-def]
    """Let an item sink to its place among the first `end` of a heap whose largest item is on top."""
    while True:
        below = 2 * at + 1
        if below >= end:
            return
        if below + 1 < end and heap[below + 1] > heap[below]:
            below += 1
        if heap[at] >= heap[below]:
            return
        heap[at], heap[below] = heap[below], heap[at]
        at = below


def place_of(numbers, number):  # type: ignore[no-untyped-def]
    """The place of a number in numbers in order, or where it would be."""
    low = 0
    high = len(numbers)
    while low < high:
        middle = (low + high) // 2
        if numbers[middle] < number:
            low = middle + 1
        else:
            high = middle
    return low


def regroup(w, seeds, parent, fresh, claims, was):  # type: ignore[no-untyped-def]
    """Number the groups after the runs around `seeds` were made anew.

    parent : which seeds the new runs join.  fresh : new road cells by part.  claims : (K, 2) int64, an
    old group and a part in which some of it is.  was : old groups of the dirty cells.
    """
    head = w.head
    count = len(seeds)
    groups = distinct(claims, was)
    part_of = np.full(len(groups), -1, np.int64)
    simple = True
    for k in range(len(claims)):
        at = place_of(groups, claims[k, 0])
        if part_of[at] >= 0 and part_of[at] != claims[k, 1]:
            simple = False
        part_of[at] = claims[k, 1]
    for at in range(len(groups)):
        if part_of[at] < 0:
            # Nothing is left of it.
            free_group(w, groups[at])
    if not simple:
        parts = 0
        for k in range(count):
            parts += parent[k] == k
        alive = groups.copy()
        left = 0
        for at in range(len(groups)):
            if part_of[at] >= 0:
                alive[left] = groups[at]
                left += 1
        alive = alive[:left]
        if parts > MOST_PARTS:
            renumber(w, seeds, alive)
            return
        split_parts(w, seeds, parent, fresh, claims, alive)
        # What split off has a number of its own; the other parts are one now, by way of `parent`.
        for at in range(len(groups)):
            part_of[at] = -1
        for k in range(len(claims)):
            if claims[k, 0]:
                at = place_of(groups, claims[k, 0])
                part_of[at] = root_of(parent, claims[k, 1])

    # Now every group is in one part; a part may hold several groups, or none.
    name = np.zeros(count, np.int64)
    for at in range(len(groups)):
        root = part_of[at]
        if root >= 0 and (not name[root] or w.size[groups[at]] > w.size[name[root]]):
            name[root] = groups[at]
    for k in range(count):
        if parent[k] != k:
            continue
        if not name[k] and not w.group[seeds[k]]:
            name[k] = take_number(w.free_groups, head, GROUPS, FREE_GROUPS)
            w.size[name[k]] = 0
            head[EPOCH] += 1
        if name[k]:
            w.size[name[k]] += fresh[k]
    for k in range(count):
        node = seeds[k]
        to = name[root_of(parent, k)]
        if not to or w.group[node] == to:
            continue
        if w.group[node] == 0:
            w.group[node] = to
        else:
            relabel(w, node, to)
    for at in range(len(groups)):
        root = part_of[at]
        if root >= 0 and name[root] != groups[at]:
            w.size[name[root]] += w.size[groups[at]]
            free_group(w, groups[at])


def free_group(w, group):  # type: ignore[no-untyped-def]
    """A group is no more."""
    w.size[group] = 0
    w.free_groups[w.head[FREE_GROUPS]] = group
    w.head[FREE_GROUPS] += 1
    w.head[EPOCH] += 1


def relabel(w, node, to):  # type: ignore[no-untyped-def]
    """Give every node that is joined to one through its own group another group."""
    old = w.group[node]
    w.group[node] = to
    w.link[node] = 0
    top = node
    while top:
        here = top
        top = w.link[here]
        w.link[here] = 0
        for side in range(4):
            run = w.arm[here, side]
            if run:
                for end in range(2):
                    other = w.ends[run, end]
                    if w.group[other] == old:
                        w.group[other] = to
                        w.link[other] = top
                        top = other


def renumber(w, seeds, alive):  # type: ignore[no-untyped-def]
    """Number all groups that `seeds` belong to from scratch. alive : their old numbers."""
    head = w.head
    # Marks, not numbers, say what was met: an old number may be given out again at once.
    for group in alive:
        free_group(w, group)
    head[EPOCH] += 1
    for seed in seeds:
        if w.mark[seed]:
            continue
        name = take_number(w.free_groups, head, GROUPS, FREE_GROUPS)
        cells = 0
        w.mark[seed] = 1
        top = seed
        w.link[seed] = 0
        while top:
            here = top
            top = w.link[here]
            w.link[here] = 0
            w.group[here] = name
            cells += 2
            for side in range(4):
                run = w.arm[here, side]
                if run:
                    # Each run is met from both of its sides.
                    cells += w.steps[run] - 1
                    for end in range(2):
                        other = w.ends[run, end]
                        if not w.mark[other]:
                            w.mark[other] = 1
                            w.link[other] = top
                            top = other
        w.size[name] = cells // 2
    for seed in seeds:
        top = seed
        if w.mark[seed]:
            w.mark[seed] = 0
            w.link[seed] = 0
            while top:
                here = top
                top = w.link[here]
                w.link[here] = 0
                for side in range(4):
                    run = w.arm[here, side]
                    if run:
                        for end in range(2):
                            other = w.ends[run, end]
                            if w.mark[other]:
                                w.mark[other] = 0
                                w.link[other] = top
                                top = other


def split_parts(w, seeds, parent, fresh, claims, alive):  # type: ignore[no-untyped-def]
    """Find out which parts are still joined beyond the new runs.

    All parts that share an old group are searched in turn, a node at a time, until they meet or all but
    one of them are exhausted. An exhausted one is a group of its own from now on, and its claims become
    0; the others are joined in `parent`.
    """
    head = w.head
    count = len(seeds)
    # A part has to be searched if it shares an old group with another; `asks` joins those that do.
    first = np.full(len(alive), -1, np.int64)
    look = np.zeros(count, np.bool_)
    asks = np.arange(count)
    for k in range(len(claims)):
        at = place_of(alive, claims[k, 0])
        root = claims[k, 1]
        if first[at] < 0:
            first[at] = root
        elif first[at] != root:
            look[first[at]] = True
            look[root] = True
            a = root_of(asks, first[at])
            b = root_of(asks, root)
            asks[max(a, b)] = min(a, b)
    # A queue for each part: `link` leads from node to node, `begin` to the first, `now` to the next to
    # be expanded. A node's `mark` is 1 + its part.
    begin = np.zeros(count, np.int64)
    now = np.zeros(count, np.int64)
    tail = np.zeros(count, np.int64)
    for k in range(count):
        root = root_of(parent, k)
        if look[root]:
            node = seeds[k]
            w.mark[node] = root + 1
            w.link[node] = 0
            if tail[root]:
                w.link[tail[root]] = node
            else:
                begin[root] = node
                now[root] = node
            tail[root] = node
    cells = np.zeros(count, np.int64)
    met = np.arange(count)
    mine = np.empty(count, np.int64)
    for ask in range(count):
        if root_of(asks, ask) != ask:
            continue
        many = 0
        for k in range(count):
            if look[k] and root_of(asks, k) == ask:
                mine[many] = k
                many += 1
        if many == 0:
            continue
        search_parts(w, mine[:many], met, now, tail, cells)
        # The bundle that goes on keeps the old groups, or the largest; all others are named anew.
        keeps = -1
        most = -1
        for j in range(many):
            if now[mine[j]]:
                keeps = root_of(met, mine[j])
                most = 1 << 62
        for j in range(many):
            total = 0
            bundle = root_of(met, mine[j])
            for i in range(many):
                if root_of(met, mine[i]) == bundle:
                    total += cells[mine[i]]
            if most < total:
                most = total
                keeps = bundle
        lost = 0
        for j in range(many):
            bundle = mine[j]
            if root_of(met, bundle) != bundle or bundle == keeps:
                continue
            name = take_number(w.free_groups, head, GROUPS, FREE_GROUPS)
            head[EPOCH] += 1
            total = 0
            for i in range(many):
                part = mine[i]
                if root_of(met, part) != bundle:
                    continue
                total += cells[part]
                lost -= fresh[part]
                fresh[part] = 0
                node = begin[part]
                while node:
                    w.group[node] = name
                    node = w.link[node]
                for k in range(len(claims)):
                    if claims[k, 1] == part:
                        claims[k, 0] = 0
            w.size[name] = total // 2
            lost += total // 2
        # What these took with them is missing from the old groups, all of which become one.
        keeper = 0
        for k in range(len(claims)):
            if claims[k, 0] and root_of(met, claims[k, 1]) == keeps:
                keeper = claims[k, 0]
        w.size[keeper] -= lost
        for at in range(len(alive)):
            if first[at] < 0 or root_of(asks, first[at]) != ask:
                continue
            left = False
            for k in range(len(claims)):
                left = left or claims[k, 0] == alive[at]
            if not left:
                w.size[keeper] += w.size[alive[at]]
                free_group(w, alive[at])
    for k in range(count):
        node = begin[k]
        while node:
            after = w.link[node]
            w.mark[node] = 0
            w.link[node] = 0
            node = after
    for k in range(count):
        if look[k]:
            a = root_of(parent, k)
            b = root_of(parent, met[k])
            if a != b:
                parent[max(a, b)] = min(a, b)
                fresh[min(a, b)] += fresh[max(a, b)]
                fresh[max(a, b)] = 0


def search_parts(w, mine, met, now, tail, cells):  # type: ignore[no-untyped-def]
    """Search from several parts in turn until at most one bundle of those that met still goes on."""
    while True:
        one = -1
        apart = False
        for k in mine:
            if now[k]:
                bundle = root_of(met, k)
                apart = apart or (one >= 0 and bundle != one)
                one = bundle
        if not apart:
            return
        for k in mine:
            here = now[k]
            if not here:
                continue
            cells[k] += 2
            for side in range(4):
                run = w.arm[here, side]
                if not run:
                    continue
                # Each run is met from both of its sides.
                cells[k] += w.steps[run] - 1
                for end in range(2):
                    other = w.ends[run, end]
                    if w.mark[other] == 0:
                        w.mark[other] = k + 1
                        w.link[other] = 0
                        w.link[tail[k]] = other
                        tail[k] = other
                    else:
                        a = root_of(met, k)
                        b = root_of(met, w.mark[other] - 1)
                        met[max(a, b)] = min(a, b)
            now[k] = w.link[here]
