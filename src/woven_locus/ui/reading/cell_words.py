"""What a cell holds, in words: for the Reading, and for who listens."""

from __future__ import annotations

from woven_locus.core.geometry import Cell
from woven_locus.core.kinds import Footprint
from woven_locus.core.placing.verdict import cells_text
from woven_locus.core.plan import Plan
from woven_locus.core.ways.roads import road_words
from woven_locus.ui.language import tr


def ground_words(plan: Plan, cell: Cell) -> str:
    """The class of its terrain, and whether it is reserved. cell : on the grid."""
    slot = plan.spec.slot(cell)
    terrain = plan.terrain_table[int(plan.terrain[slot])].name
    return tr("{terrain}, reserved", terrain=terrain) if plan.reserved[slot] else terrain


def thing_words(plan: Plan, cell: Cell) -> str:
    """What stands or runs there, or nothing. cell : on the grid."""
    slot = plan.spec.slot(cell)
    if who := plan.occupant_at(cell):
        return plan.title_of(who)
    if byte := int(plan.road[slot]):
        return tr(road_words(plan.road_table, byte, plan.spec.y_up))
    return tr("barrier") if plan.barrier[slot] else ""


def size_words(footprint: Footprint) -> str:
    """``3 × 2, 6 cells``."""
    return tr(
        "{cols} × {rows}, {cells}",
        cols=footprint.cols,
        rows=footprint.rows,
        cells=cells_text(len(footprint.cells)),
    )
