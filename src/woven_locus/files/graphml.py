"""The junction graph as GraphML (graphml.graphdrawing.org, version 1.0), for any program that reads graphs.

A directed graph: a run that is open both ways is two edges.
"""

from __future__ import annotations

from collections.abc import Iterator
from xml.sax.saxutils import escape, quoteattr

import numpy as np

from woven_locus.core.errors import FileProblem
from woven_locus.core.kernels.graph import NODES, RUNS
from woven_locus.core.plan import Plan
from woven_locus.core.register import structure_id
from woven_locus.core.ways.doors import approach_slots
from woven_locus.files.plan_rows import num

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
    """The document. Raises FileProblem where the plan has no graph yet (a large one, before the kernels are
    compiled)."""
    if plan.network.woven is None:
        raise FileProblem("GraphML", "", "the kernels are not compiled yet; try again in a moment")
    return "\n".join(_lines(plan)) + "\n"


def _lines(plan: Plan) -> Iterator[str]:
    w, spec = plan.network.woven, plan.spec
    assert w is not None
    yield '<?xml version="1.0" encoding="UTF-8"?>'
    yield '<graphml xmlns="http://graphml.graphdrawing.org/xmlns">'
    for at, (name, of, kind) in enumerate(_KEYS):
        yield f'  <key id="k{at}" for="{of}" attr.name="{name}" attr.type="{kind}"/>'
    yield f'  <graph id={quoteattr(plan.name)} edgedefault="directed">'
    doors: dict[int, list[str]] = {}
    for number, slots in approach_slots(plan, plan.register).items():
        for slot in slots.tolist():
            doors.setdefault(slot, []).append(structure_id(number))
    live = [n for n in range(1, int(w.head[NODES]) + 1) if w.at[n] >= 0 and w.owner[w.at[n]] == -n]
    for node in live:
        slot = int(w.at[node])
        cell = spec.cell_at_index(slot)
        middle = spec.centre(cell)
        arms = int(np.count_nonzero(w.arm[node]))
        names = " ".join(doors.get(slot, ()))
        kind = _kind(arms, bool(names))
        data = _data(0, (cell.col, cell.row, num(middle.x), num(middle.y), kind, names))
        yield f'    <node id="n{node}">{data}</node>'
    for run in range(1, int(w.head[RUNS]) + 1):
        if w.steps[run] <= 0:
            continue
        a, b = w.ends[run].tolist()
        length, steps = _length(plan, run), int(w.steps[run])
        there, back = w.toll[run].tolist()
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
    w, spec = plan.network.woven, plan.spec
    assert w is not None
    a, b = w.at[w.ends[run]].tolist()
    slots = np.concatenate(([a], plan.network.cells_of_run(run), [b]))
    across = int(np.count_nonzero(np.diff(slots // spec.cols) == 0))
    return num(across * spec.cell_w + (int(w.steps[run]) - across) * spec.cell_h)


def _data(first: int, values: tuple[object, ...]) -> str:
    return "".join(
        f'<data key="k{first + at}">{escape(str(value))}</data>' for at, value in enumerate(values)
    )
