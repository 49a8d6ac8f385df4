"""Edits that mend: a near miss, two pieces of road that do not meet."""

from __future__ import annotations

from collections.abc import Sequence

from woven_locus.core.editing import Edit
from woven_locus.core.edits.roads import lay_road, raise_barrier
from woven_locus.core.errors import Refused
from woven_locus.core.geometry import Cell, cell_text
from woven_locus.core.phrase import phrase
from woven_locus.core.placing import judge_barrier, judge_road
from woven_locus.core.plan import Plan
from woven_locus.core.proof.misses import NearMiss
from woven_locus.core.ways.roads import class_of


def mend(plan: Plan, miss: NearMiss) -> Edit:
    """Close a near miss with road of the class that is there, or barrier. Raises Refused."""
    where = cell_text(miss.gap)
    barrier = miss.what == "barrier"
    verdict = (judge_barrier if barrier else judge_road)(plan, miss.mend or (miss.gap,))
    if not verdict:
        raise Refused(
            phrase(
                "It cannot be mended at {where}: {sentence}",
                where=where,
                sentence=verdict.sentence(),
            )
        )
    if not miss.mend:
        raise Refused(
            phrase(
                "It cannot be mended at {where}: what is there was put there on purpose",
                where=where,
            )
        )
    if barrier:
        edit = raise_barrier(plan, miss.mend)
    else:
        edit = lay_road(plan, miss.mend, max(0, class_of(_road_at(plan, miss.to))))
    return Edit(phrase("Mended a near miss at {where}", where=where), edit.changes)


def _road_at(plan: Plan, cell: Cell) -> int:
    return int(plan.road[plan.spec.slot(cell)])


def lay_all(plan: Plan, cells: Sequence[Cell], code: int, label: str) -> Edit:
    """Road on every one of the cells, or none. Raises Refused."""
    verdict = judge_road(plan, cells)
    if not verdict:
        raise Refused(phrase("Road cannot run there: {sentence}", sentence=verdict.sentence()))
    return Edit(label, lay_road(plan, cells, code).changes)
