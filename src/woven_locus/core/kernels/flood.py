"""Relabelling of connected road cells after an edit, as plain Python that Numba can compile."""

from __future__ import annotations

import numpy as np


def relabel(road, cols, rows, labels, seeds, next_label):  # type: ignore[no-untyped-def]
    """Give every group of joined road cells that holds a seed a label of its own.

    road : (rows*cols,) uint8, 0 is none.  labels : (rows*cols,) int32, changed in place.
    seeds : int64 flat slots, road or not.  next_label : the lowest unused label; labels from it on
    must not be in use. Returns the lowest label unused afterwards and the sizes of the groups made,
    in order. O(cells in the groups).
    """
    label = next_label
    room = 1024
    stack = np.empty(room, np.int64)
    sizes = np.zeros(len(seeds), np.int64)
    made = 0
    for seed in seeds:
        if road[seed] == 0:
            labels[seed] = 0
            continue
        if labels[seed] >= next_label:
            continue
        labels[seed] = label
        stack[0] = seed
        depth = 1
        size = 0
        while depth > 0:
            depth -= 1
            node = stack[depth]
            size += 1
            row = node // cols
            col = node - row * cols
            if depth + 4 > room:
                grown = np.empty(room * 2, np.int64)
                grown[:room] = stack
                stack = grown
                room *= 2
            if row > 0 and road[node - cols] and labels[node - cols] != label:
                labels[node - cols] = label
                stack[depth] = node - cols
                depth += 1
            if row < rows - 1 and road[node + cols] and labels[node + cols] != label:
                labels[node + cols] = label
                stack[depth] = node + cols
                depth += 1
            if col > 0 and road[node - 1] and labels[node - 1] != label:
                labels[node - 1] = label
                stack[depth] = node - 1
                depth += 1
            if col < cols - 1 and road[node + 1] and labels[node + 1] != label:
                labels[node + 1] = label
                stack[depth] = node + 1
                depth += 1
        sizes[made] = size
        made += 1
        label += 1
    return label, sizes[:made]
