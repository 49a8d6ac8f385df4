"""The junction graph as GraphML (graphml.graphdrawing.org, version 1.0), for any program that reads graphs.

A directed graph: a run that is open both ways is two edges.
"""

from __future__ import annotations

from collections.abc import Iterator
from html import escape

import numpy as np

from woven_locus.core.plan import Plan
from woven_locus.core.register import structure_id
from woven_locus.core.ways.doors import approach_slots
from woven_locus.files.row_values import num

# (name, of what, type): the keys that are declared, in order.
_KEYS = (
    ("col", "node", "int"),
    ("row", "node", "int"),
    ("x", "node", "double"),
    ("y", "node", "double"),
    ("kind", "node", "string"),
    ("structures", "node", "string"),
    ("cost", "edge", "double"),
    ("length", "edge", "double"),
    ("steps", "edge", "int"),
)


def dump(plan: Plan) -> str:
    """The document. Raises NotReady where the plan has no graph yet (a large one, before the kernels are
    compiled)."""
    return "\n".join(_lines(plan)) + "\n"


def _lines(plan: Plan) -> Iterator[str]:
    graph, spec = plan.network.graph, plan.spec
    yield '<?xml version="1.0" encoding="UTF-8"?>'
    yield '<graphml xmlns="http://graphml.graphdrawing.org/xmlns">'
    for at, (name, of, kind) in enumerate(_KEYS):
        yield f'  <key id="k{at}" for="{of}" attr.name="{name}" attr.type="{kind}"/>'
    yield f'  <graph id="{escape(plan.name)}" edgedefault="directed">'
    doors: dict[int, list[str]] = {}
    for number, slots in approach_slots(plan, plan.register).items():
        for slot in slots.tolist():
            doors.setdefault(slot, []).append(structure_id(number))
    for node in graph.nodes().tolist():
        slot = graph.slot_of(node)
        cell = spec.cell_at_index(slot)
        middle = spec.centre(cell)
        arms = sum(run > 0 for run in graph.arms(node))
        names = " ".join(doors.get(slot, ()))
        kind = _kind(arms, bool(names))
        data = _data(0, (cell.col, cell.row, num(middle.x), num(middle.y), kind, names))
        yield f'    <node id="n{node}">{data}</node>'
    for run in graph.runs().tolist():
        a, b = graph.ends(run)
        length, steps = _length(plan, run), graph.steps(run)
        there, back = graph.costs(run)
        for way, (source, target, toll) in enumerate(((a, b, there), (b, a, back))):
            if np.isfinite(toll):
                data = _data(6, (num(toll), length, steps))
                name = f'id="e{run}{"ab"[way]}" source="n{source}" target="n{target}"'
                yield f"    <edge {name}>{data}</edge>"
    yield "  </graph>"
    yield "</graphml>"


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


def _data(first: int, values: tuple[object, ...]) -> str:
    return "".join(
        f'<data key="k{first + at}">{escape(str(value))}</data>' for at, value in enumerate(values)
    )
