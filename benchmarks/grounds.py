"""Seeded grounds for routing: (H, W) uint8 codes, 0 blocked, 1 and up open with COSTS."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

Codes = npt.NDArray[np.uint8]

# Move cost of each code: open ground, slow ground, slower ground.
COSTS = np.full(256, np.inf)
COSTS[1:4] = (1.0, 1.5, 3.0)


def scattered(side: int, seed: int) -> Codes:
    """20 % of the cells blocked at random, the rest of three costs in patches."""
    rng = np.random.default_rng(seed)
    coarse = rng.integers(1, 4, (side // 16 + 1, side // 16 + 1), np.uint8)
    code = np.kron(coarse, np.ones((16, 16), np.uint8))[:side, :side].copy()
    code[rng.random((side, side)) < 0.2] = 0
    return code


def maze(side: int, seed: int) -> Codes:
    """Corridors one cell wide: a random spanning tree of rooms (Kruskal), one wall in fifty open."""
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import minimum_spanning_tree

    rng = np.random.default_rng(seed)
    half = (side - 1) // 2
    code = np.zeros((side, side), np.uint8)
    code[1 : 2 * half : 2, 1 : 2 * half : 2] = 1
    at = np.arange(half * half).reshape(half, half)
    a = np.concatenate([at[:, :-1].ravel(), at[:-1].ravel()])
    b = np.concatenate([at[:, 1:].ravel(), at[1:].ravel()])
    walls = coo_matrix((rng.random(len(a)) + 0.1, (a, b)), shape=(half * half, half * half))
    tree = minimum_spanning_tree(walls.tocsr()).tocoo()
    extra = rng.random(len(a)) < 0.02
    a, b = np.concatenate([tree.row, a[extra]]), np.concatenate([tree.col, b[extra]])
    # The wall between two rooms lies half way between them.
    code[a // half + b // half + 1, a % half + b % half + 1] = 1
    return code


def rooms(side: int, seed: int) -> Codes:
    """Rooms of 16 x 16 cells with a door or two in each wall."""
    rng = np.random.default_rng(seed)
    code = np.ones((side, side), np.uint8)
    code[::16, :] = 0
    code[:, ::16] = 0
    for line in range(16, side, 16):
        for start in range(0, side, 16):
            code[line, min(side - 1, start + rng.integers(1, 16))] = 1
            code[min(side - 1, start + rng.integers(1, 16)), line] = 1
    code[0, :] = code[:, 0] = 0
    return code


def streets(side: int, seed: int) -> Codes:
    """Road cells every 8 cells both ways, one block edge in ten missing."""
    rng = np.random.default_rng(seed)
    code = np.zeros((side, side), np.uint8)
    code[4::8, :] = 1
    code[:, 4::8] = 1
    for row in range(4, side, 8):
        for col in range(4, side - 8, 8):
            if rng.random() < 0.1:
                code[row, col + 3] = 0
            if rng.random() < 0.1 and row + 3 < side:
                code[row + 3, col] = 0
    return code


FAMILIES = {"scattered": scattered, "maze": maze, "rooms": rooms, "streets": streets}


def far_ends(code: Codes) -> tuple[tuple[int, int], tuple[int, int]]:
    """The open cells nearest the two corners, of the largest connected part."""
    from scipy import ndimage

    labels, count = ndimage.label(code > 0)
    sizes = np.bincount(labels.ravel())
    sizes[0] = 0
    cells = np.argwhere(labels == int(sizes.argmax())) if count else np.argwhere(code > 0)
    reach = cells.sum(axis=1)
    first, last = cells[int(reach.argmin())], cells[int(reach.argmax())]
    return (int(first[0]), int(first[1])), (int(last[0]), int(last[1]))
