"""All that vehicles drive on, made ready for a run: tracks, speeds, and an empty road."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from woven_locus.core import kernels
from woven_locus.core.errors import Refused
from woven_locus.core.kernels.traffic_state import (
    KEPT,
    Areas,
    Kinds,
    Net,
    NetPieces,
    Road,
    RoadPieces,
    empty,
    made,
)
from woven_locus.core.lanes import LaneGraph
from woven_locus.core.lanes.pattern import PATTERNS
from woven_locus.core.lanes.shape import lanes_each_way
from woven_locus.core.phrase import phrase
from woven_locus.core.plan import Plan
from woven_locus.core.traffic.conflicts import Body
from woven_locus.core.traffic.junctions import Junctions
from woven_locus.core.traffic.tracks import MOST_MOVEMENTS, Tracks, make_tracks
from woven_locus.core.vehicles import VehicleKind
from woven_locus.core.ways.roads import HALF_WIDTHS, class_of

Ints = npt.NDArray[np.int64]

# More nodes than a cell can have.
_MOST_NODES = 1024
# A node's key is its flat slot times this, and what it is there.
KEYS_A_SLOT = PATTERNS * _MOST_NODES
# Nobody brakes harder than so many times what is comfortable.
HARDEST = 2.0


class Streets:
    """tracks : what is driven on.  places : (N, 2) world points of its nodes.  net, kinds, road : as the kernels take
    them, the road empty.  junctions : of the tracks.
    keys : (N,) ascending, what a node is whatever its number: its cell, the pattern of that, its place in it.

    Raises Refused for vehicles that the roads have no room for.
    """

    def __init__(self, plan: Plan, kinds: Sequence[VehicleKind]) -> None:
        check_room(plan, kinds)
        self.graph = plan.lanes.graph
        nodes = self.graph.nodes()
        self.places = self.graph.places(nodes)
        self.keys = _keys(self.graph, nodes)
        body = Body(
            max(kind.length for kind in kinds),
            max(kind.width for kind in kinds),
            KEPT * min(kind.gap for kind in kinds),
        )
        self.tracks = make_tracks(self.graph, body)
        most = int(np.diff(self.tracks.mask_at).max(initial=0))
        if most > MOST_MOVEMENTS:
            raise Refused(
                phrase(
                    "a junction has {most} movements; at most {most_movements} can be told apart",
                    most=most,
                    most_movements=MOST_MOVEMENTS,
                )
            )
        self.net = _net(self.tracks, min(kind.braking for kind in kinds), body.gap)
        names = ("length", "speed", "acceleration", "braking", "headway", "gap")
        columns = [np.array([getattr(kind, name) for kind in kinds], float) for name in names]
        of = dict(zip(Kinds._fields, [*columns, HARDEST * columns[3]], strict=False))
        self.kinds = made(Kinds, **of)
        self.road = _empty_road(self.tracks)
        self.junctions = Junctions(self.graph, self.tracks, plan.road)


def _keys(graph: LaneGraph, nodes: Ints) -> Ints:
    slots, forms = graph.slot[nodes].astype(np.int64), graph.forms
    pattern = graph.pattern[slots].astype(np.int64)
    local = graph.form[nodes] - forms.base[pattern]
    return slots * KEYS_A_SLOT + pattern * _MOST_NODES + local


def check_room(plan: Plan, kinds: Sequence[VehicleKind]) -> None:
    """Raises Refused for a vehicle that is too wide for a lane that lies somewhere, or longer than a cell."""
    unit = min(plan.spec.cell_w, plan.spec.cell_h)
    lies = np.flatnonzero(np.bincount(plan.road.ravel(), minlength=256))
    for byte in lies.tolist():
        if not np.isfinite(plan.road_table.costs[byte]):
            continue
        item = plan.road_table[class_of(byte)]
        wide = HALF_WIDTHS[item.lanes] / lanes_each_way(item.lanes) * unit / 1.1
        for kind in kinds:
            if kind.width > wide:
                raise Refused(
                    phrase(
                        "{kind} is {width:g} wide; a lane of {item} has room for {wide:.4g}: make it narrower, or the road broader",
                        kind=kind.name,
                        width=kind.width,
                        item=item.name,
                        wide=wide,
                    )
                )
            if kind.length > unit:
                raise Refused(
                    phrase(
                        "{kind} is {length:g} long; on cells of {unit:g} a vehicle may be as long as a cell at most",
                        kind=kind.name,
                        length=kind.length,
                        unit=unit,
                    )
                )


def _net(tracks: Tracks, brake: float, gap: float) -> Net:
    """brake : with which one slows down before bends.  gap : that is kept to who is ahead."""
    allow, enter = kernels.bends(tracks.begins, tracks.end, tracks.speed, brake)
    every = np.arange(len(tracks))
    starts, ends = tracks.starts_of(every), tracks.ends_of(every)
    # Where ways part, or one swings, who drives on is ahead of those behind it until it is clear of them.
    parts = np.bincount(starts, minlength=len(tracks.nodes))[starts] > 1
    clear = np.zeros(len(tracks.nodes))
    until = np.minimum(gap + tracks.swing, tracks.length)
    np.maximum.at(clear, starts, np.where(parts | (tracks.swing > 0), until, 0.0))
    pieces = made(
        NetPieces,
        length=tracks.length,
        enter=enter,
        back=tracks.back[starts],
        out=np.maximum(tracks.out[ends], clear[ends]),
        swing=tracks.swing,
        area=tracks.area,
        movement=tracks.movement,
        source=tracks.source,
        inner=tracks.inner,
    )
    return Net(pieces, tracks.begins, tracks.end, tracks.speed, allow, tracks.mask, tracks.mask_at)


def _empty_road(tracks: Tracks) -> Road:
    pieces, areas = empty(RoadPieces, len(tracks)), empty(Areas, len(tracks.slots))
    for nobody in (pieces.last, pieces.left, areas.first, areas.final):
        nobody[:] = -1
    moves = len(tracks.mask)
    held, passed, waited = (
        np.zeros(moves, np.int32),
        np.zeros(moves, np.int64),
        np.zeros(moves, np.int64),
    )
    return Road(pieces, areas, held, passed, waited)
