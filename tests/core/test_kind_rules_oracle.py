"""The rules of kinds against brute force, one spot and whole maps."""

import math
from collections.abc import Iterable, Iterator

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.helpers.random_steps import random_step
from tests.helpers.strategies import cells_of, plans
from woven_locus.core import edits
from woven_locus.core.editing import History
from woven_locus.core.geometry import SIDES, Cell
from woven_locus.core.kinds import Kind, Thing
from woven_locus.core.placing import (
    Feasibility,
    Reason,
    always_refused,
    judge,
    nearest_spot,
    why_not,
)
from woven_locus.core.placing.feasibility import WHY_BIT
from woven_locus.core.plan import Plan
from woven_locus.core.wave_plan import Moves


def placed(plan: Plan, kind: Kind, turn: int) -> tuple[set[tuple[int, int]], list[tuple[int, ...]]]:
    """Cells and sides (col, row, d_col, d_row, side as drawn) after a turn, worked out point by point."""
    rows = kind.footprint.to_rows()
    cells = {(c, r) for r, row in enumerate(rows) for c, on in enumerate(row) if on == "#"}
    sides = [
        (c, r, d_col, d_row, side)
        for c, r in cells
        for side, (d_row, d_col) in enumerate(SIDES)
        if (c + d_col, r + d_row) not in cells
    ]
    if turn >= 4:
        cells = {(-c, r) for c, r in cells}
        sides = [(-c, r, -d_c, d_r, side) for c, r, d_c, d_r, side in sides]
    for _ in range(turn % 4):
        cells = {(-r, c) for c, r in cells}
        sides = [(-r, c, -d_r, d_c, side) for c, r, d_c, d_r, side in sides]
    if plan.spec.y_up:
        cells = {(c, -r) for c, r in cells}
        sides = [(c, -r, d_c, -d_r, side) for c, r, d_c, d_r, side in sides]
    low_c, low_r = min(c for c, _ in cells), min(r for _, r in cells)
    return (
        {(c - low_c, r - low_r) for c, r in cells},
        [(c - low_c, r - low_r, d_c, d_r, side) for c, r, d_c, d_r, side in sides],
    )


def holds(plan: Plan, thing: Thing, key: str, cell: Cell, lifted: int) -> bool:
    if not plan.spec.contains(cell):
        return False
    row, col = plan.spec.slot(cell)
    if thing is Thing.TERRAIN:
        return plan.terrain_table[int(plan.terrain[row, col])].key == key
    if thing is Thing.ROAD:
        return bool(plan.road[row, col])
    if thing is Thing.BARRIER:
        return bool(plan.barrier[row, col])
    if thing is Thing.OBSTACLE:
        return any(cell in item.cells for item in plan.obstacles.values())
    return any(
        cell in plan.cells_of(other) and key in ("", other.kind) and other.number != lifted
        for other in plan.register
    )


def near(cell: Cell, n: int) -> Iterator[Cell]:
    return (cell.moved(c, r) for c in range(-n, n + 1) for r in range(-n, n + 1))


def oracle(plan: Plan, kind: Kind, low: Cell, turn: int, lifted: int = 0) -> set[Reason]:
    """Every reason why not, read off the recorded things alone."""
    found: set[Reason] = set()
    offs, sides = placed(plan, kind, turn)
    cells = [low.moved(c, r) for c, r in offs]
    inside = [cell for cell in cells if plan.spec.contains(cell)]
    asked, window, spec = kind.demands, plan.window, plan.spec
    if len(inside) < len(cells):
        found.add(Reason.OUTSIDE)
    for cell in inside:
        slot = spec.slot(cell)
        ground = plan.terrain_table[int(plan.terrain[slot])]
        good = ground.buildable if asked.terrain is None else ground.key in asked.terrain
        for reason, bad in (
            (Reason.OUTSIDE, window is not None and not window.contains(cell)),
            (Reason.TERRAIN, not good),
            (Reason.RESERVED, bool(plan.reserved[slot])),
            (Reason.OBSTACLE, holds(plan, Thing.OBSTACLE, "", cell, 0)),
            (Reason.OCCUPIED, holds(plan, Thing.KIND, "", cell, lifted)),
            (Reason.ROAD, bool(plan.road[slot])),
            (Reason.BARRIER, bool(plan.barrier[slot])),
        ):
            if bad:
                found.add(reason)
        if asked.slope is not None and plan.heights is not None:
            steep = 0.0
            here = float(plan.heights[slot])
            for d_r, d_c, size in ((0, 1, spec.cell_w), (1, 0, spec.cell_h)):
                ends = [here, here]
                steps = 0
                for at, sign in enumerate((-1, 1)):
                    other = cell.moved(sign * d_c, sign * d_r)
                    if spec.contains(other) and not math.isnan(plan.heights[spec.slot(other)]):
                        ends[at] = float(plan.heights[spec.slot(other)])
                        steps += 1
                way = (ends[1] - ends[0]) / (max(steps, 1) * size)
                steep += way * way
            rise = math.tan(math.radians(asked.slope))
            if not math.isnan(here) and steep > rise * rise:
                found.add(Reason.SLOPE)
        clears = [(clear.thing, clear.key, clear.cells) for clear in asked.clear]
        for other in plan.kinds:
            for clear in other.demands.clear:
                if clear.thing is Thing.KIND and clear.key in ("", kind.key):
                    clears.append((Thing.KIND, other.key, clear.cells))
        for thing, key, n in clears:
            if any(holds(plan, thing, key, around, lifted) for around in near(cell, n)):
                found.add(Reason.CLEARANCE)
    if asked.stand is not None:
        on = sum(
            any(holds(plan, Thing.TERRAIN, key, cell, 0) for key in asked.stand.terrain)
            for cell in inside
        )
        if on < (asked.stand.least or len(cells)):
            found.add(Reason.SUPPORT)
    for touch in asked.touch:
        on = sum(
            side in touch.sides
            and holds(plan, touch.thing, touch.key, low.moved(c + d_c, r + d_r), lifted)
            for c, r, d_c, d_r, side in sides
        )
        if on < touch.least:
            found.add(Reason.SUPPORT)
    if asked.lattice is not None:
        lattice = asked.lattice
        if (low.col - lattice.col) % lattice.cols or (low.row - lattice.row) % lattice.rows:
            found.add(Reason.LATTICE)
    if asked.reach is not None and plan.actor is not None:
        wide, tall = 1 + max(c for c, _ in offs), 1 + max(r for _, r in offs)
        slot = spec.slot(low)
        x = spec.origin_x + (slot.col + wide / 2) * spec.cell_w
        y = spec.origin_y + (slot.row + tall / 2) * spec.cell_h
        d_x, d_y = x - plan.actor.x, y - plan.actor.y
        if d_x * d_x + d_y * d_y > asked.reach * asked.reach:
            found.add(Reason.REACH)
    if asked.access:
        doors = set()
        shown = plan.footprint(kind, turn).doors
        for c, r, d_c, d_r, _side in sides:
            if not shown or any(
                (c, r, *SIDES[d.side][::-1]) == (d.col, d.row, d_c, d_r) for d in shown
            ):
                doors.add(low.moved(c + d_c, r + d_r))
        if not any(holds(plan, Thing.ROAD, "", cell, 0) for cell in doors):
            found.add(Reason.ACCESS)
    mine = bool(lifted) and plan.register[lifted].kind == kind.key
    if asked.most is not None:
        count = sum(row.kind == kind.key for row in plan.register) - mine
        if count >= asked.most:
            found.add(Reason.LIMIT)
    if plan.funds is not None and not mine and kind.price:
        back = plan.funds.back_for(plan.register[lifted].price) if lifted else 0
        if plan.account.balance + back < kind.price:
            found.add(Reason.FUNDS)
    if turn % 4 not in kind.turns or (turn >= 4 and not kind.mirror):
        found.add(Reason.TURN)
    for entry in plan.waves.entries:
        ends = entry.cells, [cell for goal in plan.waves.goals_of(entry) for cell in goal.cells]
        over_ground = Moves.GROUND in plan.waves.moves_from(entry)
        if over_ground and leads(plan, *ends) and not leads(plan, *ends, set(cells), lifted):
            found.add(Reason.SEALS)
    return found


def leads(
    plan: Plan,
    starts: Iterable[Cell],
    goals: Iterable[Cell],
    closed: set[Cell] = frozenset(),  # type: ignore[assignment]
    lifted: int = 0,
) -> bool:
    """Whether one can walk from any of some cells to any of others."""

    def is_open(cell: Cell) -> bool:
        if not plan.spec.contains(cell) or cell in closed:
            return False
        slot = plan.spec.slot(cell)
        if plan.road[slot]:
            return bool(np.isfinite(plan.road_table.costs[plan.road[slot]]))
        taken = int(plan.occupant[slot]) not in (0, lifted or 0)
        ground = plan.terrain_table[int(plan.terrain[slot])]
        return ground.passable and not taken and not plan.barrier[slot]

    ends = set(filter(is_open, goals))
    waiting = list(filter(is_open, starts))
    seen = set(waiting)
    while waiting:
        cell = waiting.pop()
        if cell in ends:
            return True
        for step in SIDES:
            other = cell.moved(*step)
            if other not in seen and is_open(other):
                seen.add(other)
                waiting.append(other)
    return False


@given(st.data(), plans(8))
def test_both_forms_of_every_rule_agree_with_brute_force(data: st.DataObject, plan: Plan) -> None:
    kinds = list(plan.kinds)
    history = History(plan)
    for _ in range(3):
        kind, at = data.draw(st.sampled_from(kinds)), data.draw(cells_of(plan.spec))
        if judge(plan, kind, at, kind.turns[0]):
            history.do(edits.place(plan, kind.key, at, kind.turns[0], "now"))
    kind, turn = data.draw(st.sampled_from(kinds)), data.draw(st.integers(0, 7))
    lifted = data.draw(st.sampled_from([0, *plan.register.numbers()]))
    where = why_not(plan, kind, turn, plan.spec.box, lifted)
    always = set(always_refused(plan, kind, turn, lifted))
    for row in range(plan.spec.rows):
        for col in range(plan.spec.cols):
            low = plan.spec.cell_of_slot((row, col))
            expected = oracle(plan, kind, low, turn, lifted)
            verdict = judge(plan, kind, low, turn, lifted)
            assert set(verdict.reasons) == expected
            bits = int(where[row, col])
            assert {reason for reason in WHY_BIT if bits & WHY_BIT[reason]} | always == expected
            if verdict:
                assert all(cell.ok for cell in verdict.cells)
                assert not verdict.sentence()
            else:
                assert all(verdict.words_for(reason) for reason in verdict.reasons)


@given(plans(9), st.integers(0, 2**32 - 1))
def test_the_map_kept_current_is_the_map_worked_out_anew(plan: Plan, seed: int) -> None:
    rng = np.random.default_rng(seed)
    history = History(plan)
    kind = list(plan.kinds)[int(rng.integers(len(plan.kinds)))]
    turn = int(rng.integers(8))
    held: list[Feasibility] = [Feasibility(plan, kind, turn)]

    def follow(notice: object) -> None:
        kind = held[0].kind
        if held[0].is_void(notice):  # type: ignore[arg-type]
            key = kind.key if kind.key in plan.kinds else next(iter(plan.kinds)).key
            held[0] = Feasibility(plan, plan.kinds[key], turn)
        else:
            held[0].update(notice)  # type: ignore[arg-type]

    history.listen(follow)
    for _ in range(12):
        random_step(plan, history, rng)
    fresh = Feasibility(plan, held[0].kind, turn)
    np.testing.assert_array_equal(held[0].why, fresh.why)
    np.testing.assert_array_equal(held[0].fits, fresh.fits)
    assert (held[0].free, held[0].free_any, held[0].always) == (
        fresh.free,
        fresh.free_any,
        fresh.always,
    )
    assert held[0].alone() == fresh.alone()
    assert fresh.free == int((fresh.why == 0).sum())


@given(plans(8), st.data())
def test_the_nearest_spot_is_the_nearest(plan: Plan, data: st.DataObject) -> None:
    kind = data.draw(st.sampled_from(list(plan.kinds)))
    turn = kind.all_turns[0]
    at = data.draw(cells_of(plan.spec, beyond=40))
    spec = plan.spec

    def away(cell: Cell) -> float:
        return ((cell.col - at.col) * spec.cell_w) ** 2 + ((cell.row - at.row) * spec.cell_h) ** 2

    good = [
        cell
        for cell in (spec.cell_of_slot((r, c)) for r in range(spec.rows) for c in range(spec.cols))
        if judge(plan, kind, cell, turn)
    ]
    found = nearest_spot(plan, kind, turn, at)
    if not good:
        assert found is None
    else:
        assert found in good
        assert away(found) == pytest.approx(min(away(cell) for cell in good))
