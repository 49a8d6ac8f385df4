"""A step of the history drawn at random from all that there are."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from tests.helpers.builders import WHEN, paint
from tests.helpers.wave_strategies import wave_step
from woven_locus.core import edits
from woven_locus.core.editing import Edit, History, Keep, Regrid
from woven_locus.core.edits import (
    blocks,
    ground,
    heights,
    many,
    money,
    obstacles,
    roads,
    terrain_classes,
    traffic,
)
from woven_locus.core.edits import kinds as kind_edits
from woven_locus.core.edits.findings import accept, accept_no_more
from woven_locus.core.edits.grid import regrid, set_snap, set_window
from woven_locus.core.errors import Refused
from woven_locus.core.geometry import Box, Cell
from woven_locus.core.grid import BuildWindow, SnapSettings
from woven_locus.core.grid import Rule as SnapRule
from woven_locus.core.junction_rules import JunctionRule, Phase, Rule
from woven_locus.core.lanes import KeepSide
from woven_locus.core.lines import Brush
from woven_locus.core.placing import judge, judge_ground
from woven_locus.core.plan import Plan
from woven_locus.core.proof.finding import Finding, Part, Severity
from woven_locus.core.value import replace
from woven_locus.core.vehicles import (
    Trip,
    plain_vehicle,
)
from woven_locus.core.ways.roads import Sign


def random_step(plan: Plan, history: History, rng: np.random.Generator, calm: bool = False) -> None:
    """One random edit, or an undo or redo, as a user might do it. calm : the grid, the window and the
    classes seldom change, so that things pile up."""
    spec = plan.spec
    kinds = list(plan.kinds)

    def cell() -> Cell:
        return Cell(
            int(rng.integers(spec.first_col - 2, spec.last.col + 3)),
            int(rng.integers(spec.first_row - 2, spec.last.row + 3)),
        )

    numbers = plan.register.numbers()
    what = rng.integers(0, 20)
    if calm and what in (10, 11, 12) and rng.integers(60):
        what = 0
    turn = int(rng.integers(8))
    if what <= 1:
        for _ in range(8):
            kind, at = kinds[rng.integers(len(kinds))], cell()
            if judge(plan, kind, at, turn % 4):
                history.do(edits.place(plan, kind.key, at, turn % 4, WHEN))
                break
    elif what == 2 and numbers:
        number = numbers[rng.integers(len(numbers))]
        kind = plan.kinds[plan.register[number].kind]
        at = cell()
        if judge(plan, kind, at, turn, lifted=number):
            history.do(edits.move(plan, number, at, turn))
    elif what == 3 and numbers and not (calm and rng.integers(3)):
        history.do(edits.demolish(plan, [numbers[rng.integers(len(numbers))]]))
    elif what == 4:
        around = [cell() for _ in range(5)]
        history.do(paint(plan, around, int(rng.integers(len(plan.terrain_table)))))
    elif what == 5:
        start = cell()
        run = [start.moved(k, 0) for k in range(int(rng.integers(1, 6)))]
        if rng.integers(3):
            history.do(edits.lay_road(plan, run, int(rng.integers(len(plan.road_table)))))
        else:
            history.do(edits.raise_barrier(plan, run))
    elif what == 6 and rng.integers(3) == 0:
        around = [cell() for _ in range(6)]
        signs = [Sign(int(sign)) for sign in rng.integers(7, size=6)]
        history.do(edits.put_signs(plan, around, signs))
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
    elif what == 13 and numbers:
        _try(history, lambda: _many(plan, numbers, cell(), turn, rng))
    elif what == 14:
        _try(history, lambda: _money(plan, cell(), rng))
    elif what == 16 and rng.integers(2):
        _try(history, lambda: _traffic(plan, cell(), rng))
    elif what == 16:
        _try(history, lambda: wave_step(plan, cell(), rng))
        if not rng.integers(4):
            _try(history, lambda: _accept(plan, cell(), rng))
        if not rng.integers(4):
            snap = SnapSettings(list(SnapRule)[rng.integers(3)], float(rng.integers(1, 5)))
            history.do(set_snap(plan, snap))
    elif what == 15 and not rng.integers(3):
        _try(history, lambda: _catalogue(plan, rng))
    elif rng.integers(2):
        history.undo()
    else:
        history.redo()


def _accept(plan: Plan, cell: Cell, rng: np.random.Generator) -> Edit:
    """Accept something, or the first no more."""
    if plan.accepted and rng.integers(2):
        return accept_no_more(plan, plan.accepted[0])
    if not plan.spec.contains(cell):
        raise Refused("outside")
    return accept(plan, Finding("dead-end", Severity.NOTE, Part.WAYS, "It ends", cell), "A view")


def _try(history: History, make: Callable[[], Edit]) -> None:
    """Do an edit unless the rules refuse it."""
    try:
        edit = make()
    except Refused:
        return
    history.do(edit)


def _many(plan: Plan, numbers: list[int], at: Cell, turn: int, rng: np.random.Generator) -> Edit:
    """Several structures at once, moved or copied; or one replaced."""
    some = rng.permutation(numbers)[: int(rng.integers(1, 4))].tolist()
    what = rng.integers(3)
    if what == 0:
        return many.move_by(plan, some, *rng.integers(-2, 3, 2).tolist())
    if what == 1:
        kind = list(plan.kinds)[rng.integers(len(plan.kinds))]
        return edits.replace_with(plan, some[0], kind.key, plan.register[some[0]].cell, turn, WHEN)
    slot = plan.spec.slot(at)
    block = blocks.copied(plan, some, Box(slot.row, slot.col, slot.row + 3, slot.col + 4))
    for _ in range(turn % 4):
        block = block.turned(plan.kinds)
    return blocks.paste(plan, block.mirrored(plan.kinds) if turn > 3 else block, at, WHEN)


def _money(plan: Plan, at: Cell, rng: np.random.Generator) -> Edit:
    what = rng.integers(6)
    if what == 0:
        return money.set_funds(plan, int(rng.integers(3000)) if rng.integers(4) else None)
    if what == 1:
        return money.place_actor(plan, plan.spec.centre(at) if rng.integers(4) else None)
    if what == 2:
        return money.begin_again(plan)
    if what == 3:
        return roads.keep_to(plan, KeepSide.LEFT if rng.integers(2) else KeepSide.RIGHT)
    return money.advance(plan, int(rng.integers(1, 60)))


def _traffic(plan: Plan, at: Cell, rng: np.random.Generator) -> Edit:
    """A trip more, a kind of vehicle more or less, or another rule of a junction."""
    what, vehicles = rng.integers(5), plan.traffic.vehicles
    if what == 0 and len(vehicles) < 3:
        kind = replace(plain_vehicle(plan.spec), key=f"v{rng.integers(999)}")
        taken = {known.key for known in vehicles}
        return traffic.add_vehicle(plan, kind) if kind.key not in taken else Edit("", ())
    if what == 1 and vehicles:
        return traffic.remove_vehicle(plan, vehicles[0].key)
    if what == 2:
        keys = ["", *(kind.key for kind in vehicles)]
        trip = Trip(at, int(rng.integers(1, 9)), 0.5, keys[rng.integers(len(keys))], 2.0, 3)
        return traffic.set_trips(plan, (*plan.traffic.trips[-3:], trip))
    if what == 3:
        return traffic.set_rule(plan, at, JunctionRule(at, Rule.LARGER))
    phase = Phase(((0, 2), (1, 3)), float(rng.integers(1, 20)), 2.0)
    return traffic.set_rule(plan, at, JunctionRule(at, Rule.SIGNALS, (phase, phase)))


def _catalogue(plan: Plan, rng: np.random.Generator) -> Edit:
    """A kind that changes its footprint, price or yield, is copied or removed."""
    kinds = list(plan.kinds)
    kind = kinds[rng.integers(len(kinds))]
    what = rng.integers(4)
    if what == 0 and len(kinds) < 12:
        return kind_edits.copy_kind(plan, kind.key)
    if what == 1 and len(kinds) > 4:
        return kind_edits.remove_kind(plan, kind.key)
    if what == 2:
        other = kinds[rng.integers(len(kinds))]
        return kind_edits.change_kind(plan, kind.key, replace(kind, footprint=other.footprint))
    pays, every = rng.integers(0, 30, 2).tolist()
    return kind_edits.change_kind(plan, kind.key, replace(kind, pays=pays, every=every))
