"""Hypothesis strategies: grids, footprints, plans, and edits on them."""

from __future__ import annotations

import string
from dataclasses import replace

import numpy as np
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from tests.helpers.builders import KINDS, WHEN, paint
from woven_locus.core.editing import History, Keep, Regrid
from woven_locus.core.geometry import Box, Cell
from woven_locus.core.grid import BuildWindow, GridSpec
from woven_locus.core.ground import Obstacle
from woven_locus.core.kinds import Catalogue, Footprint, Kind
from woven_locus.core.placing import judge, judge_ground
from woven_locus.core.plan import Plan
from woven_locus.core.tools import edits, ground, heights, obstacles, terrain_classes
from woven_locus.core.tools.lines import Brush
from woven_locus.core.tools.window import regrid, set_window
from woven_locus.document.document import starter_terrain

sizes = st.floats(0.01, 1000, allow_nan=False)
places = st.floats(-1e6, 1e6, allow_nan=False)
words = st.text(st.characters(exclude_categories=["Cs"]), max_size=12)


@st.composite
def grids(draw: st.DrawFn, largest: int = 40) -> GridSpec:
    return GridSpec(
        draw(st.integers(1, largest)),
        draw(st.integers(1, largest)),
        draw(sizes),
        draw(sizes),
        draw(places),
        draw(places),
        draw(st.booleans()),
        draw(st.integers(-1000, 1000)),
        draw(st.integers(-1000, 1000)),
        draw(words),
        draw(st.booleans()),
    )


@st.composite
def cells_of(draw: st.DrawFn, spec: GridSpec, beyond: int = 0) -> Cell:
    return Cell(
        draw(st.integers(spec.first_col - beyond, spec.last.col + beyond)),
        draw(st.integers(spec.first_row - beyond, spec.last.row + beyond)),
    )


footprints = st.builds(
    Footprint,
    st.sets(st.tuples(st.integers(0, 3), st.integers(0, 3)), min_size=1, max_size=8).map(
        lambda cells: tuple(
            (c - min(x for x, _ in cells), r - min(y for _, y in cells)) for c, r in cells
        )
    ),
)


levels = st.floats(-1000, 1000, width=32) | st.just(float("nan"))


@st.composite
def windows(draw: st.DrawFn, spec: GridSpec) -> BuildWindow:
    low = draw(cells_of(spec, beyond=3))
    return BuildWindow(low, draw(st.integers(1, 12)), draw(st.integers(1, 12)))


@st.composite
def plans(draw: st.DrawFn, largest: int = 12) -> Plan:
    """Random ground, obstacles and road; nothing built yet."""
    spec = draw(grids(largest))
    layer = lambda top: hnp.arrays(np.uint8, spec.shape, elements=st.integers(0, top))  # noqa: E731
    table = starter_terrain()
    road = draw(layer(3)) == 3
    where = draw(st.sets(cells_of(spec), max_size=4))
    free = [cell for cell in sorted(where) if not road[spec.slot(cell)]]
    kinds = [
        Kind(f"k{k}", draw(words), "K", "#112233", draw(st.integers(0, 99)), draw(footprints))
        for k in range(2)
    ]
    return Plan(
        draw(words),
        spec,
        table,
        Catalogue([*KINDS, *kinds]),
        terrain=draw(layer(len(table) - 1)),
        reserved=(draw(layer(5)) == 5).astype(np.uint8),
        road=road.astype(np.uint8),
        heights=draw(st.none() | hnp.arrays(np.float32, spec.shape, elements=levels)),
        window=draw(st.none() | windows(spec)),
        obstacles=[Obstacle(k + 1, draw(words), "rowan", (c,)) for k, c in enumerate(free)],
        money="".join(draw(st.lists(st.sampled_from(string.ascii_letters), max_size=5))),
    )


def random_step(plan: Plan, history: History, rng: np.random.Generator) -> None:
    """One random edit, or an undo or redo, as a user might do it."""
    spec = plan.spec
    kinds = list(plan.kinds)

    def cell() -> Cell:
        return Cell(
            int(rng.integers(spec.first_col - 2, spec.last.col + 3)),
            int(rng.integers(spec.first_row - 2, spec.last.row + 3)),
        )

    numbers = plan.register.numbers()
    what = rng.integers(0, 14)
    if what <= 1:
        kind, at, turn = kinds[rng.integers(len(kinds))], cell(), int(rng.integers(4))
        if judge(plan, kind, at, turn):
            history.do(edits.place(plan, kind.key, at, turn, WHEN))
    elif what == 2 and numbers:
        number = numbers[rng.integers(len(numbers))]
        kind = plan.kinds[plan.register[number].kind]
        at, turn = cell(), int(rng.integers(4))
        if judge(plan, kind, at, turn, lifted=number):
            history.do(edits.move(plan, number, at, turn))
    elif what == 3 and numbers:
        history.do(edits.demolish(plan, [numbers[rng.integers(len(numbers))]]))
    elif what == 4:
        around = [cell() for _ in range(5)]
        history.do(paint(plan, around, int(rng.integers(len(plan.terrain_table)))))
    elif what == 5:
        start = cell()
        history.do(
            edits.lay_road(plan, [start.moved(k, 0) for k in range(int(rng.integers(1, 6)))])
        )
    elif what == 6:
        history.do(edits.erase_road(plan, [cell() for _ in range(4)]))
    elif what == 7:
        step = heights.set_heights(plan, heights.flat(plan), "Flat")
        if plan.heights is not None:
            mask = rng.random((3, 4)) < 0.6
            how = list(heights.Sculpt)[rng.integers(4)]
            slot = spec.slot(cell())
            box = Box(slot.row, slot.col, slot.row + 3, slot.col + 4)
            step = heights.sculpt(plan, how, box, mask, float(rng.normal()))
        history.do(step)
    elif what == 8:
        coat = ground.Coat("reserved", int(rng.integers(2)))
        history.do(ground.paint_brush(plan, [cell(), cell()], Brush(3, True), coat))
    elif what == 9 and plan.obstacles:
        numbers = list(plan.obstacles)
        history.do(obstacles.clear_obstacles(plan, [numbers[rng.integers(len(numbers))]]))
    elif what == 9:
        free = [at for at in (cell() for _ in range(5)) if judge_ground(plan, [at])]
        if free:
            history.do(obstacles.place_obstacle(plan, "Thorn", "rowan", free[:1]))
    elif what == 10:
        window = BuildWindow(cell(), int(rng.integers(1, 9)), int(rng.integers(1, 9)))
        history.do(set_window(plan, window if rng.integers(3) else None))
    elif what == 11 and len(plan.terrain_table) > 2:
        code, into = rng.choice(len(plan.terrain_table), 2, replace=False).tolist()
        history.do(terrain_classes.merge_class(plan, code, into))
    elif what == 12 and not rng.integers(4):
        more, up = rng.integers(-2, 3, 2).tolist(), bool(rng.integers(2))
        other = replace(
            spec, cols=max(2, spec.cols + more[0]), rows=max(2, spec.rows + more[1]), y_up=up
        )
        history.do(regrid(plan, Regrid(other, list(Keep)[rng.integers(2)])))
    elif rng.integers(2):
        history.undo()
    else:
        history.redo()
