"""The movements of areas: which of them conflict, and what is kept clear before and beyond them."""

from __future__ import annotations

from functools import lru_cache
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from woven_locus.core.lanes import LaneGraph
from woven_locus.core.lanes.graph import LaneEdges
from woven_locus.core.traffic.conflicts import NEARBY, Body, Conflicts, Path, conflicts

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]


class Movements(NamedTuple):
    """As in `Tracks`: movement, by piece; mask and mask_at; back and out, by node; swing, by piece."""

    movement: npt.NDArray[np.int32]
    mask: Ints
    mask_at: Ints
    back: Floats
    out: Floats
    swing: Floats


def make_movements(
    graph: LaneGraph,
    nodes: Ints,
    edges: LaneEdges,
    begins: Ints,
    order: Ints,
    area: npt.NDArray[np.int32],
    areas: int,
    start: Ints,
    body: Body,
) -> Movements:
    """Number the movements of each area, and say which conflict, and what is kept clear before and beyond them.

    nodes, edges, start : of the lane graph, dense.  begins, order : the edges of each piece.  area : of each piece, -1 for
    a track; areas : how many there are.  body : the largest vehicle that is to drive there.
    """
    movement = np.full(len(area), -1, np.int32)
    pieces = np.flatnonzero(area >= 0)
    pieces = pieces[np.argsort(area[pieces], kind="stable")]
    counts = np.bincount(area[pieces], minlength=areas)
    mask_at = np.concatenate(([0], np.cumsum(counts)))
    movement[pieces] = np.arange(len(pieces)) - np.repeat(mask_at[:-1], counts)
    starts = start[order[begins[pieces]]]
    ends = edges.to[order[begins[pieces + 1] - 1]]
    shapes, at = _shapes(
        graph, nodes, edges, start, (begins, order), (pieces, starts, ends), mask_at
    )
    mask = np.zeros(len(pieces), np.int64)
    backs, outs, swings = (np.zeros(len(pieces)) for _ in range(3))
    first, rows = mask_at.tolist(), at.tolist()
    for some in map(slice, first[:-1], first[1:]):
        # Areas of the same look have the same conflicts.
        mine = (shapes[rows[k] : rows[k + 1]].tobytes() for k in range(some.start, some.stop))
        known = _known(tuple(mine), body)
        mask[some], backs[some], outs[some], swings[some] = known
    back, out = np.zeros(len(nodes)), np.zeros(len(nodes))
    np.maximum.at(back, starts, backs)
    np.maximum.at(out, ends, outs)
    swing = np.zeros(len(area))
    swing[pieces] = swings
    return Movements(movement, mask, mask_at, back, out, swing)


def _shapes(
    graph: LaneGraph,
    nodes: Ints,
    edges: LaneEdges,
    start: Ints,
    chains: tuple[Ints, Ints],
    moves: tuple[Ints, Ints, Ints],
    mask_at: Ints,
) -> tuple[Floats, Ints]:
    """The look of each movement, from where the first of its area begins: (R, 3) points and headings, those of
    movement k in the rows at[k] to at[k + 1]; and `at`. See `_known`.

    chains : the edges of each piece.  moves : pieces, and the nodes where they begin and end, in order of their area.
    """
    (begins, order), (pieces, starts, ends) = chains, moves
    places = graph.places(nodes)
    leads_in, leads_out = _leads(graph, nodes, edges, start)
    count = begins[pieces + 1] - begins[pieces]
    at = np.concatenate(([0], np.cumsum(count + 3)))
    shapes = np.zeros((at[-1], 3))
    shapes[at[:-1]], shapes[at[1:] - 1] = leads_in[starts], leads_out[ends]
    shapes[at[:-1] + 1, :2] = places[starts]
    # The edges of one piece after another, and where the points go at which they end.
    within = np.arange(int(count.sum())) - np.repeat(np.cumsum(count) - count, count)
    ended = edges.to[order[np.repeat(begins[pieces], count) + within]]
    shapes[np.repeat(at[:-1] + 2, count) + within, :2] = places[ended]
    origin = np.zeros((len(mask_at) - 1, 3))
    origin[:, :2] = places[starts[mask_at[:-1]]]
    of_area = np.repeat(np.arange(len(origin)), np.diff(at[mask_at]))
    return np.round(shapes - origin[of_area], 6), at


@lru_cache(maxsize=4096)
def _known(shapes: tuple[bytes, ...], body: Body) -> Conflicts:
    """The conflicts of paths of such shapes: a look of a junction is worked out once, whatever is made anew.
    shapes : (P + 2, 3) float64 each, points and headings, of which only the first and the last heading count."""
    paths = []
    for shape in shapes:
        rows = np.frombuffer(shape).reshape(-1, 3)
        points = rows[:, :2]
        paths.append(
            Path(points[1:-1], points[0], float(rows[0, 2]), points[-1], float(rows[-1, 2]))
        )
    return conflicts(paths, body)


def _leads(graph: LaneGraph, nodes: Ints, edges: LaneEdges, start: Ints) -> tuple[Floats, Floats]:
    """(N, 3) world point and heading of the node before each and of the one after it, of several the one that is most
    straight ahead; where there is none a point just before or after it."""
    places, headings = graph.places(nodes), graph.headings(nodes)
    ahead = np.stack([np.cos(np.radians(headings)), np.sin(np.radians(headings))], axis=1)
    poses = np.concatenate((places, headings[:, None]), axis=1)
    way = (places[edges.to] - places[start]) / edges.length[:, None]
    leads = []
    for mine, other, turn in ((edges.to, start, -1.0), (start, edges.to, 1.0)):
        found = poses.copy()
        found[:, :2] += turn * NEARBY * ahead
        # The straightest is put last, and stays.
        order = np.argsort((way * ahead[mine]).sum(axis=1), kind="stable")
        found[mine[order]] = poses[other[order]]
        leads.append(found)
    return leads[0], leads[1]


def carry(clear: Floats, ends: Ints, starts: Ints, length: Floats) -> None:
    """What is kept clear at one end of a piece and is longer than it is kept clear at its other end too.
    clear : by node, raised in place.  ends, starts, length : of pieces."""
    while True:
        more = clear[ends] - length
        if not (more > clear[starts]).any():
            return
        np.maximum.at(clear, starts, more)
