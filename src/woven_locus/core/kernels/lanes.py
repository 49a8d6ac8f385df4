"""The way through the lane graph that takes the least time, as plain Python that Numba can compile.

Source of the algorithm: P. Hart, N. Nilsson, B. Raphael (1968), as in `astar`; ties go to whatever was put
into the open list first.
"""

from __future__ import annotations

import numpy as np

from woven_locus.core.kernels.journeys import HEAP_ROOM, pop, push, roomier


def search_lanes(out, slot, form, x, y, bend, road, slow, cols, cell_w, cell_h, starts, goals, least):  # type: ignore[no-untyped-def]  # fmt: skip
    """A way of least time from any of `starts` to any of `goals`.

    out, slot, form : as in `LaneGraph`.  x, y, bend : (F,) float64 by form: place from the middle of the cell,
    and the seconds a world unit that a bend asks for.  road : (H*W,) uint8.  slow : (256,) float64, seconds a
    world unit by road byte.  cols, cell_w, cell_h : of the grid.  starts, goals : int64 nodes, at least one each.
    least : what no node is below in seconds a world unit, for the heuristic.

    Returns (nodes, explored): int64 from start to goal, empty without a way; and nodes taken up.
    """
    room = len(slot)
    # What is never looked at is never written to, so that a short way over a large graph costs little.
    g = np.empty(room, np.float64)
    came = np.empty(room, np.int32)
    state = np.zeros(room, np.uint8)  # 1 closed, 2 a goal, 4 seen
    west, north, east, south = np.inf, np.inf, -np.inf, -np.inf
    for goal in goals:
        state[goal] = 2
        row = slot[goal] // cols
        px = (slot[goal] - row * cols) * cell_w + x[form[goal]]
        py = row * cell_h + y[form[goal]]
        west, east = min(west, px), max(east, px)
        north, south = min(north, py), max(south, py)
    keys = np.empty(max(HEAP_ROOM, len(starts) + 1), np.float64)
    items = np.empty(len(keys), np.int64)
    waiting = 0
    for start in starts:
        if state[start] & 4:
            continue
        state[start] |= 4
        g[start] = 0.0
        came[start] = 0
        row = slot[start] // cols
        px = (slot[start] - row * cols) * cell_w + x[form[start]]
        py = row * cell_h + y[form[start]]
        off_x = max(west - px, px - east, 0.0)
        off_y = max(north - py, py - south, 0.0)
        push(keys, items, waiting, np.sqrt(off_x * off_x + off_y * off_y) * least, start)
        waiting += 1
    explored = 0
    found = 0
    while waiting > 0:
        node = pop(keys, items, waiting)
        waiting -= 1
        if state[node] & 1:
            continue
        state[node] |= 1
        explored += 1
        if state[node] & 2:
            found = node
            break
        row = slot[node] // cols
        px = (slot[node] - row * cols) * cell_w + x[form[node]]
        py = row * cell_h + y[form[node]]
        pace = max(slow[road[slot[node]]], bend[form[node]])
        for k in range(out.shape[1]):
            to = out[node, k]
            if to == 0 or state[to] & 1:
                continue
            row2 = slot[to] // cols
            qx = (slot[to] - row2 * cols) * cell_w + x[form[to]]
            qy = row2 * cell_h + y[form[to]]
            pace2 = max(slow[road[slot[to]]], bend[form[to]])
            length = np.sqrt((qx - px) * (qx - px) + (qy - py) * (qy - py))
            there = g[node] + length * (pace + pace2) * 0.5
            if state[to] & 4 and there >= g[to]:
                continue
            state[to] |= 4
            g[to] = there
            came[to] = node
            off_x = max(west - qx, qx - east, 0.0)
            off_y = max(north - qy, qy - south, 0.0)
            if waiting == len(keys):
                keys, items = roomier(keys, items)
            push(
                keys,
                items,
                waiting,
                there + np.sqrt(off_x * off_x + off_y * off_y) * least,
                np.int64(to),
            )
            waiting += 1
    if found == 0:
        return np.empty(0, np.int64), explored
    count = 1
    node = found
    while came[node]:
        node = came[node]
        count += 1
    path = np.empty(count, np.int64)
    node = found
    for k in range(count - 1, -1, -1):
        path[k] = node
        node = came[node]
    return path, explored
