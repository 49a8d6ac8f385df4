"""The lane graph as rows: what the command line prints and the files of lanes hold. Nodes are numbered from 1, by row,
column and place in their cell, whatever was edited before."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import NamedTuple

import numpy as np

from woven_locus.core.plan import Plan
from woven_locus.files.row_values import num
from woven_locus.files.tables import table


class LaneNode(NamedTuple):
    """x, y : in the world.  heading : degrees, 0 towards higher columns and 90 towards higher rows.
    lane : 0 for the innermost."""

    col: int
    row: int
    x: float
    y: float
    heading: float
    lane: int
    turns_about: bool


class LaneEdge(NamedTuple):
    """Numbers of nodes; world units and seconds."""

    start: int
    end: int
    length: float
    seconds: float


def lane_nodes(plan: Plan) -> Iterator[LaneNode]:
    """In the order of their numbers."""
    graph, spec = plan.lanes.graph, plan.spec
    nodes = graph.nodes()
    rows, cols = divmod(graph.slot[nodes].astype(np.int64), spec.cols)
    places = graph.places(nodes)
    columns = (
        cols + spec.first_col,
        rows + spec.first_row,
        *(places[:, 0], places[:, 1]),
        *(graph.headings(nodes), graph.lanes(nodes), graph.turns_about(nodes)),
    )
    return map(LaneNode, *(column.tolist() for column in columns))


def lane_edges(plan: Plan) -> Iterator[LaneEdge]:
    """By the node that they leave."""
    edges = plan.lanes.graph.edges()
    starts = np.repeat(np.arange(1, len(edges.first)), np.diff(edges.first))
    columns = (starts, edges.to + 1, edges.length, edges.seconds)
    return map(LaneEdge, *(column.tolist() for column in columns))


def lane_numbers(plan: Plan, nodes: np.ndarray) -> list[int]:
    """The printed numbers of some nodes of the plan's lane graph."""
    return (plan.lanes.graph.numbers()[nodes] + 1).tolist()  # type: ignore[no-any-return]


def lanes_csv(plan: Plan) -> str:
    """Every edge on a line, with the node that it leaves; a node that nothing leaves has a line of its own."""
    header = (
        *("node", "col", "row", "x", "y", "heading", "lane", "turns_about"),
        *("to", "length", "seconds"),
    )

    def rows() -> Iterator[list[object]]:
        edges = lane_edges(plan)
        edge = next(edges, None)
        for at, node in enumerate(lane_nodes(plan), 1):
            about = "yes" if node.turns_about else "no"
            here = [at, node.col, node.row, *map(num, node[2:5]), node.lane, about]
            if edge is None or edge.start != at:
                yield [*here, "", "", ""]
            while edge is not None and edge.start == at:
                yield [*here, edge.end, num(edge.length), num(edge.seconds)]
                edge = next(edges, None)

    return table(header, rows())


def lanes_lines(plan: Plan) -> str:
    """Every edge as a line, in the shape of GeoJSON (RFC 7946) but in plan units, as routes are."""
    nodes = list(lane_nodes(plan))
    lines = []
    for edge in lane_edges(plan):
        a, b = nodes[edge.start - 1], nodes[edge.end - 1]
        where = [[num(a.x), num(a.y)], [num(b.x), num(b.y)]]
        about = {
            "from": edge.start,
            "to": edge.end,
            "lane": a.lane,
            "length": num(edge.length),
            "seconds": num(edge.seconds),
        }
        shape = {"type": "LineString", "coordinates": where}
        lines.append(json.dumps({"type": "Feature", "geometry": shape, "properties": about}))
    whole = {
        "type": "FeatureCollection",
        "units": plan.spec.unit or "units",
        "keep": plan.keep.value,
    }
    head = json.dumps(whole, ensure_ascii=False)[:-1]
    body = "\n  " + ",\n  ".join(lines) + "\n" if lines else ""
    return f'{head}, "features": [{body}]}}\n'
