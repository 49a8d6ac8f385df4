"""The junction graph and the lane graph as GraphML (graphml.graphdrawing.org, version 1.0), for any program that
reads graphs. Directed: a run that is open both ways is two edges.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from html import escape

import numpy as np

from woven_locus.core.plan import Plan
from woven_locus.core.register import structure_id
from woven_locus.core.ways.doors import approach_slots
from woven_locus.files.lane_rows import lane_edges, lane_nodes
from woven_locus.files.row_values import num

# (name, type) of the values of nodes and of edges, in order.
Keys = Sequence[tuple[str, str]]
# (id, values) of a node; (id, from, to, values) of an edge.
Nodes = Iterable[tuple[str, Sequence[object]]]
Edges = Iterable[tuple[str, str, str, Sequence[object]]]

_JUNCTIONS = (
    (
        *(("col", "int"), ("row", "int"), ("x", "double"), ("y", "double")),
        *(("kind", "string"), ("structures", "string")),
    ),
    (("cost", "double"), ("length", "double"), ("steps", "int")),
)
_LANES = (
    (
        *(("col", "int"), ("row", "int"), ("x", "double"), ("y", "double")),
        *(("heading", "double"), ("lane", "int"), ("turns_about", "boolean")),
    ),
    (("length", "double"), ("seconds", "double")),
)


def dump(plan: Plan) -> str:
    """The junction graph. Raises NotReady where the plan has no graph yet (a large one, before the kernels are
    compiled)."""
    return _document(plan.name, *_JUNCTIONS, _junction_nodes(plan), _junction_edges(plan))


def dump_lanes(plan: Plan) -> str:
    """The lane graph, its nodes numbered as `woven-locus lanes` prints them."""
    nodes = (
        (f"n{at}", (*values[:-1], "true" if values[-1] else "false"))
        for at, values in enumerate(lane_nodes(plan), 1)
    )
    edges = (
        (f"e{at}", f"n{start}", f"n{end}", (num(length), num(seconds)))
        for at, (start, end, length, seconds) in enumerate(lane_edges(plan), 1)
    )
    return _document(plan.name, *_LANES, nodes, edges)


def _document(name: str, of_nodes: Keys, of_edges: Keys, nodes: Nodes, edges: Edges) -> str:
    return "\n".join(_lines(name, of_nodes, of_edges, nodes, edges)) + "\n"


def _lines(name: str, of_nodes: Keys, of_edges: Keys, nodes: Nodes, edges: Edges) -> Iterator[str]:
    yield '<?xml version="1.0" encoding="UTF-8"?>'
    yield '<graphml xmlns="http://graphml.graphdrawing.org/xmlns">'
    keys = [(*key, "node") for key in of_nodes] + [(*key, "edge") for key in of_edges]
    for at, (key, kind, of) in enumerate(keys):
        yield f'  <key id="k{at}" for="{of}" attr.name="{key}" attr.type="{kind}"/>'
    yield f'  <graph id="{escape(name)}" edgedefault="directed">'
    for node, values in nodes:
        yield f'    <node id="{node}">{_data(0, values)}</node>'
    for edge, start, end, values in edges:
        data = _data(len(of_nodes), values)
        yield f'    <edge id="{edge}" source="{start}" target="{end}">{data}</edge>'
    yield "  </graph>"
    yield "</graphml>"


def _data(first: int, values: Iterable[object]) -> str:
    return "".join(
        f'<data key="k{first + at}">{escape(str(value))}</data>' for at, value in enumerate(values)
    )


def _junction_nodes(plan: Plan) -> Nodes:
    graph, spec = plan.network.graph, plan.spec
    doors: dict[int, list[str]] = {}
    for number, slots in approach_slots(plan, plan.register.alike()).items():
        for slot in slots.tolist():
            doors.setdefault(slot, []).append(structure_id(number))
    for node in graph.nodes().tolist():
        slot = graph.slot_of(node)
        cell = spec.cell_at_index(slot)
        middle = spec.centre(cell)
        arms = sum(run > 0 for run in graph.arms(node))
        names = " ".join(doors.get(slot, ()))
        kind = _kind(arms, bool(names))
        yield f"n{node}", (cell.col, cell.row, num(middle.x), num(middle.y), kind, names)


def _junction_edges(plan: Plan) -> Edges:
    graph = plan.network.graph
    for run in graph.runs().tolist():
        a, b = graph.ends(run)
        length, steps = _length(plan, run), graph.steps(run)
        there, back = graph.costs(run)
        for way, (source, target, toll) in enumerate(((a, b, there), (b, a, back))):
            if np.isfinite(toll):
                yield f"e{run}{'ab'[way]}", f"n{source}", f"n{target}", (num(toll), length, steps)


def _kind(arms: int, door: bool) -> str:
    if arms > 2:
        return "junction"
    if arms == 2:
        return "door" if door else "ring"
    return "end" if arms else "single"


def _length(plan: Plan, run: int) -> float | int:
    """World units along a run's cells."""
    graph, spec = plan.network.graph, plan.spec
    a, b = (graph.slot_of(node) for node in graph.ends(run))
    slots = np.concatenate(([a], plan.network.cells_of_run(run), [b]))
    across = int(np.count_nonzero(np.diff(slots // spec.cols) == 0))
    return num(across * spec.cell_w + (graph.steps(run) - across) * spec.cell_h)
